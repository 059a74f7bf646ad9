import type { FrameKind } from '../kind.ts';

export const tgaKind: FrameKind = {
  name: 'tga',
  extensions: ['tga', 'icb', 'vda', 'vst'],
  holds: { depths: ['8'], alpha: ['straight', 'premultiplied'], packings: { none: { share: 1 }, rle: { share: 0.9 } }, usual: 'none' },
};
