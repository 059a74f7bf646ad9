import type { FrameKind } from '../kind.ts';

/** PNG's alpha is straight by its own rule (section 6.2). */
export const pngKind: FrameKind = {
  name: 'png',
  extensions: ['png'],
  holds: { depths: ['8', '16'], alpha: ['straight'], packings: { deflate: { share: 0.6 } }, usual: 'deflate' },
};
