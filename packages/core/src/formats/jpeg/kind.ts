import type { FrameKind } from '../kind.ts';

export const jpegKind: FrameKind = {
  name: 'jpeg',
  extensions: ['jpg', 'jpeg'],
  holds: { depths: ['8'], alpha: [], packings: { jpeg: { share: 0.08, changes: ['8', '12'] } }, usual: 'jpeg' },
};
