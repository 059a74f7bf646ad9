import { createHash } from 'node:crypto';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { HeldFolder } from '@mint-tally/disk';
import { writePackage, type PackageOptions } from '@mint-tally/engine';

/** Frames of a shot that is packed, each of about half a megabyte. */
const FRAMES = 2000;

/** A shot that is packed over and over. */
export interface PackedShot {
  readonly folder: string;
  readonly pack: () => Promise<void>;
  /** Where copies of it may lie. */
  readonly target: string;
}

/** Makes a shot of so many files of one content. @param content of each */
export function makePackedShot(top: string, content: Uint8Array): PackedShot {
  const folder = path.join(top, 'packed');
  mkdirSync(folder);
  const sha256 = createHash('sha256').update(content).digest('hex');
  const files = Array.from({ length: FRAMES }, (_, i) => {
    const name = `beauty.${1001 + i}.exr`;
    writeFileSync(path.join(folder, name), content);
    return { path: name, size: content.length, sha256 };
  });
  const options = {
    source: folder,
    parts: [{ files, documents: {}, info: [] }],
    name: 'package',
    form: 'folder',
    taking: 'copy',
    sums: [],
    aside: '1',
  } as const;
  const target = path.join(top, 'copies');
  mkdirSync(target);
  return {
    ...{ folder, target },
    async pack() {
      rmSync(path.join(target, 'package'), { recursive: true, force: true });
      const parent = HeldFolder.open(target, '');
      try {
        const care = { isLeft: () => false, stopped: () => false, isKept: () => false, onProgress: () => undefined, onWhole: async () => undefined };
        await writePackage({ ...options, parent, ...care } satisfies PackageOptions);
      } finally {
        parent.close();
      }
    },
  };
}
