import type { FrameKind } from '../kind.ts';

export const dpxKind: FrameKind = {
  name: 'dpx',
  extensions: ['dpx'],
  holds: {
    depths: ['8', '10', '12', '16', 'float'],
    alpha: ['straight', 'premultiplied'],
    packings: { none: { share: 1 }, rle: { share: 0.9 } },
    usual: 'none',
  },
};
