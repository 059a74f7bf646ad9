import { read } from 'node:fs';
import { promisify } from 'node:util';

const readAt = promisify(read);
const PIECE = 1 << 20;

/**
 * What is in an open file, piece by piece from its beginning. The descriptor is left open, also when
 * nobody takes the rest; each piece is good until the next is asked for.
 */
export async function* piecesOf(descriptor: number): AsyncGenerator<Uint8Array> {
  // Two, so that one can be read while the other is still being written somewhere.
  const buffers = [Buffer.allocUnsafe(PIECE), Buffer.allocUnsafe(PIECE)];
  let position = 0;
  const ask = (turn: number) => readAt(descriptor, buffers[turn % 2]!, 0, PIECE, position);
  let next = ask(0);
  for (let turn = 0; ; turn++) {
    const { bytesRead } = await next;
    if (bytesRead === 0) return;
    position += bytesRead;
    next = ask(turn + 1);
    // An error that nobody waits for any more is nobody's.
    next.catch(() => undefined);
    try {
      yield buffers[turn % 2]!.subarray(0, bytesRead);
    } finally {
      // Whoever closes the file next must not close it under a read that goes on.
      await next.catch(() => undefined);
    }
  }
}
