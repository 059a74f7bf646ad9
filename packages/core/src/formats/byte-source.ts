import { FrameFileError } from './errors.ts';

/**
 * Where a format reads from: a file, or bytes in memory. Reading is synchronous because it only
 * happens in workers, where the server has `readSync` and a browser its `FileReaderSync`.
 */
export interface ByteSource {
  /** Length in bytes. */
  readonly size: number;
  /**
   * Gives exactly `length` bytes from `offset`. Callers stay inside `size`.
   *
   * @throws FrameFileError `truncated` when the file ends before
   */
  read(offset: number, length: number): Uint8Array;
}

/** A source over bytes in memory; reads are views, nothing is copied. */
export function memorySource(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.length,
    read(offset, length) {
      if (offset < 0 || length < 0 || offset + length > bytes.length) {
        throw new FrameFileError('truncated', `The file ends at byte ${bytes.length}; ${offset + length} are needed.`);
      }
      return bytes.subarray(offset, offset + length);
    },
  };
}

/** Steps through bytes, checking every step against their end. */
export class ByteReader {
  position: number;
  readonly bytes: Uint8Array;
  private readonly view: DataView;
  private readonly littleEndian: boolean;

  constructor(bytes: Uint8Array, options: { littleEndian: boolean; position?: number }) {
    this.bytes = bytes;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.littleEndian = options.littleEndian;
    this.position = options.position ?? 0;
  }

  get remaining(): number {
    return this.bytes.length - this.position;
  }

  uint8(): number {
    return this.bytes[this.advance(1)]!;
  }

  uint32(): number {
    return this.view.getUint32(this.advance(4), this.littleEndian);
  }

  int32(): number {
    return this.view.getInt32(this.advance(4), this.littleEndian);
  }

  float32(): number {
    return this.view.getFloat32(this.advance(4), this.littleEndian);
  }

  float64(): number {
    return this.view.getFloat64(this.advance(8), this.littleEndian);
  }

  /** A 64-bit length or offset. Values beyond 2^53 come back as such; no file is that long. */
  uint64(): number {
    return Number(this.view.getBigUint64(this.advance(8), this.littleEndian));
  }

  take(length: number): Uint8Array {
    const start = this.advance(length);
    return this.bytes.subarray(start, start + length);
  }

  /** Bytes up to a zero byte, at most `maximum` of them, read as Latin-1 or UTF-8 alike. */
  zeroEndedText(maximum: number, what: string): string {
    const end = this.bytes.indexOf(0, this.position);
    if (end < 0 && this.remaining <= maximum) throw new PastEndError();
    if (end < 0 || end - this.position > maximum) {
      throw new FrameFileError('corrupt', `${what} is longer than ${maximum} bytes.`);
    }
    const text = new TextDecoder().decode(this.bytes.subarray(this.position, end));
    this.position = end + 1;
    return text;
  }

  private advance(length: number): number {
    const start = this.position;
    if (length < 0 || start + length > this.bytes.length) throw new PastEndError();
    this.position = start + length;
    return start;
  }
}

/** The bytes at hand end before what was asked for; the caller knows whether the file does too. */
export class PastEndError extends FrameFileError {
  constructor() {
    super('truncated', 'The file ends inside its header.');
  }
}
