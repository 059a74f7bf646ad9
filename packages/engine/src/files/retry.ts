/** Errors of a disk or a network share that may be gone a moment later. */
const PASSING: ReadonlySet<string> = new Set(['EIO', 'ESTALE', 'ETIMEDOUT', 'EAGAIN', 'EBUSY', 'EINTR', 'ECONNRESET', 'ENETUNREACH', 'EHOSTDOWN', 'EREMOTEIO']);
/** Milliseconds before each further try. */
const PAUSES = [50, 400];

/** Whether an error, or what lies under it, may pass by itself. */
export function mayPass(thrown: unknown): boolean {
  if (!(thrown instanceof Error)) return false;
  return PASSING.has((thrown as NodeJS.ErrnoException).code ?? '') || mayPass(thrown.cause);
}

/**
 * Does something that reads, and does it again, twice at most, when it fails for a reason that may
 * pass. For worker threads: it waits without giving way.
 *
 * @throws whatever the last try throws
 */
export function withRetries<Result>(read: () => Result): Result {
  for (const pause of PAUSES) {
    try {
      return read();
    } catch (thrown) {
      if (!mayPass(thrown)) throw thrown;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, pause);
    }
  }
  return read();
}
