import type { FrameKind } from '../kind.ts';

/**
 * EXR's alpha is premultiplied ("Technical Introduction to OpenEXR", section "Alpha"). b44 packs halves only,
 * pxr24 cuts floats to 24 bits, dwa changes halves and floats that are looked at.
 */
export const exrKind: FrameKind = {
  name: 'exr',
  extensions: ['exr'],
  holds: {
    depths: ['half', 'float', 'uint'],
    alpha: ['premultiplied', 'straight'],
    packings: {
      none: { share: 1 },
      rle: { share: 0.85 },
      zips: { share: 0.65 },
      zip: { share: 0.6 },
      piz: { share: 0.5 },
      pxr24: { share: 0.45, changes: ['float'] },
      b44: { share: 0.44, changes: ['half'] },
      b44a: { share: 0.4, changes: ['half'] },
      dwaa: { share: 0.1, changes: ['half', 'float'] },
      dwab: { share: 0.1, changes: ['half', 'float'] },
    },
    usual: 'zip',
  },
};
