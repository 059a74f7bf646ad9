import { createHash, type Hash } from 'node:crypto';
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
  readonly digest: () => FileSums;
}

/** What begins the sums of a file. */
export async function summingBy(wanted: readonly ExtraSum[]): Promise<() => Summing> {
  const quick = wanted.includes('xxh64') ? await xxhash() : null;
  return () => {
    const strong = createHash('sha256');
    const stronger: Hash | null = wanted.includes('sha512') ? createHash('sha512') : null;
    const fast: XXHash<bigint> | null = quick && quick.create64();
    return {
      update(piece) {
        strong.update(piece);
        stronger?.update(piece);
        fast?.update(piece);
      },
      digest: () => ({
        sha256: strong.digest('hex'),
        ...(stronger ? { sha512: stronger.digest('hex') } : {}),
        ...(fast ? { xxh64: fast.digest().toString(16).padStart(16, '0') } : {}),
      }),
    };
  };
}
