import { exrFrame, sequence, type VirtualFolder } from './virtual-folder.ts';

/** An order of two passes, and the folder that fills it. */
export const brief = {
  shot: 'orr_010',
  range: '1001-1010',
  resolution: [8, 6],
  passes: [
    {
      name: 'beauty',
      pattern: 'beauty/orr_010_v004_beauty.####.exr',
      channels: ['R', 'G', 'B', 'A'],
      depth: 'half',
      compression: ['zip'],
      alpha: 'premultiplied',
    },
    { name: 'depth', pattern: 'depth/orr_010_v004_depth.####.exr', channels: ['Z'], depth: 'float' },
  ],
};

export function wholeShot(): VirtualFolder {
  return {
    ...sequence((frame) => `beauty/orr_010_v004_beauty.${frame}.exr`, 1001, 1010, exrFrame()),
    ...sequence((frame) => `depth/orr_010_v004_depth.${frame}.exr`, 1001, 1010, exrFrame({ channels: ['Z'], type: 'float' })),
  };
}

/** The beauty's file of a frame. */
export const B = (frame: string) => `beauty/orr_010_v004_beauty.${frame}.exr`;

/** A whole shot with one change. */
export function changed(change: (folder: VirtualFolder) => void): VirtualFolder {
  const folder = wholeShot();
  change(folder);
  return folder;
}

export function move(folder: VirtualFolder, from: string, to: string) {
  folder[to] = folder[from];
  delete folder[from];
}
