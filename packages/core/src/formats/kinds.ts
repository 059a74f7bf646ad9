import { dpxKind } from './dpx/kind.ts';
import { exrKind } from './exr/kind.ts';
import { jpegKind } from './jpeg/kind.ts';
import type { FrameKind } from './kind.ts';
import { pngKind } from './png/kind.ts';
import { tgaKind } from './tga/kind.ts';
import { tiffKind } from './tiff/kind.ts';

/** The kinds of frames that are looked into, without the means to look: what a page needs to give advice. */
export const frameKinds: readonly FrameKind[] = [pngKind, exrKind, tiffKind, jpegKind, tgaKind, dpxKind];

/** The kind that an extension promises, whatever its case; null for another. */
export function frameKindOf(extension: string): FrameKind | null {
  const wanted = extension.toLowerCase();
  return frameKinds.find(({ extensions }) => extensions.includes(wanted)) ?? null;
}

/** Names of one and the same packing: deflate is called zip by one format and deflate by another. */
export function isSamePacking(a: string, b: string): boolean {
  const plain = (name: string) => (name.toLowerCase() === 'deflate' ? 'zip' : name.toLowerCase());
  return plain(a) === plain(b);
}
