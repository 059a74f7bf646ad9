import type { FrameKind } from '../kind.ts';

/** TIFF says of its alpha which of the two it is (section 18, "ExtraSamples"). */
export const tiffKind: FrameKind = {
  name: 'tiff',
  extensions: ['tif', 'tiff'],
  holds: {
    depths: ['8', '10', '12', '16', 'half', 'float', 'uint'],
    alpha: ['straight', 'premultiplied'],
    packings: {
      none: { share: 1 },
      packbits: { share: 0.95 },
      lzw: { share: 0.75 },
      zip: { share: 0.65 },
      zstd: { share: 0.65 },
      lzma: { share: 0.6 },
      ccitt: { share: 0.1 },
      jpeg: { share: 0.08, changes: ['8', '12'] },
      webp: { share: 0.06, changes: ['8'] },
    },
    usual: 'lzw',
  },
};
