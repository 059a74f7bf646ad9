import { createHash, subtle, type Hash } from 'node:crypto';
import xxhash, { type XXHash } from 'xxhash-wasm';

/** Checksums that a package has besides SHA-256 where they are wanted. */
export const extraSums = ['sha512', 'xxh64'] as const;
export type ExtraSum = (typeof extraSums)[number];

/** The checksums of a file, hexadecimal. */
export interface FileSums {
  readonly sha256: string;
  readonly sha512?: string;
  readonly xxh64?: string;
}

/** Sees a file's pieces pass and works out its checksums. */
export interface Summing {
  readonly update: (piece: Uint8Array) => void;
  readonly digest: () => Promise<FileSums>;
}

/** Begins the sums of a file of so many bytes, where that is known. */
export type BeginSums = (size?: number) => Summing;

/** Files up to so many bytes are held whole, so that other threads of the system can make their sum while the next one is read. */
const MOST_HELD = 64 * 2 ** 20;

/** What begins the sums of a file. */
export async function summingBy(wanted: readonly ExtraSum[]): Promise<BeginSums> {
  const quick = wanted.includes('xxh64') ? await xxhash() : null;
  return (size) => {
    const strong = size !== undefined && size <= MOST_HELD ? heldWhole(size) : inPieces();
    const stronger: Hash | null = wanted.includes('sha512') ? createHash('sha512') : null;
    const fast: XXHash<bigint> | null = quick && quick.create64();
    return {
      update(piece) {
        strong.update(piece);
        stronger?.update(piece);
        fast?.update(piece);
      },
      digest: async () => ({
        sha256: await strong.digest(),
        ...(stronger ? { sha512: stronger.digest('hex') } : {}),
        ...(fast ? { xxh64: fast.digest().toString(16).padStart(16, '0') } : {}),
      }),
    };
  };
}

function inPieces() {
  const hash = createHash('sha256');
  return { update: (piece: Uint8Array) => void hash.update(piece), digest: async () => hash.digest('hex') };
}

function heldWhole(size: number) {
  const whole = Buffer.allocUnsafeSlow(size);
  let length = 0;
  return {
    update(piece: Uint8Array) {
      // A file that grew while it was read is not what was counted, whatever its sum.
      if (length + piece.length <= size) whole.set(piece, length);
      length += piece.length;
    },
    digest: async () => (length === size ? Buffer.from(await subtle.digest('SHA-256', whole)).toString('hex') : ''),
  };
}
