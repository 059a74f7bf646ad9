import { MintError } from '../errors.ts';

/** What can be wrong with a file by itself; finding codes of the family soundness. */
export type SoundnessCode = 'empty-file' | 'unwritten-file' | 'truncated' | 'corrupt' | 'wrong-format' | 'trailing-data' | 'unreadable' | 'still-writing';

/** Raised by the formats when a file is not whole; `code` is the finding that it becomes. */
export class FrameFileError extends MintError {
  declare readonly code: SoundnessCode;

  constructor(code: SoundnessCode, message: string) {
    super(code, message);
  }
}

/**
 * Raised where a packed stream is damaged, and recognised as such. Whoever knows the file makes the finding of it;
 * any other error out of an unpacker is a fault of ours and none of the file.
 */
export class PackedDataError extends MintError {
  /** @param what such as `it ends too early` */
  constructor(what: string, cause?: unknown) {
    super('packed-data', what, { cause });
  }
}

/** Raised by a source that cannot be read, whatever the file holds: a failing disk, a share that is gone. */
export class SourceError extends MintError {
  constructor(cause: unknown) {
    super('source', `The file cannot be read: ${cause instanceof Error ? cause.message : String(cause)}.`, { cause });
  }
}

/** Raised when a file may well be sound but uses something that is not decoded here. */
export class NotDecodedError extends MintError {
  constructor(message: string) {
    super('not-decoded', message);
  }
}
