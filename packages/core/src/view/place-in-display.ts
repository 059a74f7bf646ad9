import type { FrameHeader } from '../formats/index.ts';

/** An sRGB picture of three bytes a pixel, row by row. */
export interface Picture {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
}

/** A display window with more pixels than this is believed of no header. */
const MAXIMUM_DISPLAY_PIXELS = 64 * 2 ** 20;

/** Pixels of a data window that differs from the display window go where they belong; the rest is black. */
export function placeInDisplay(picture: Picture, header: FrameHeader): Picture {
  const { dataWindow: data, displayWindow: display } = header;
  if (!data || !display || data.every((edge, i) => edge === display[i])) return picture;
  const [width, height] = [display[2] - display[0] + 1, display[3] - display[1] + 1];
  // Sampled channels are smaller than their window; they are shown as they are.
  if (width * height > MAXIMUM_DISPLAY_PIXELS || picture.width !== data[2] - data[0] + 1 || picture.height !== data[3] - data[1] + 1) return picture;
  const out = new Uint8Array(width * height * 3);
  const left = Math.max(data[0], display[0]);
  const right = Math.min(data[2], display[2]);
  for (let y = Math.max(data[1], display[1]); y <= Math.min(data[3], display[3]) && right >= left; y++) {
    const from = ((y - data[1]) * picture.width + left - data[0]) * 3;
    out.set(picture.data.subarray(from, from + (right - left + 1) * 3), ((y - display[1]) * width + left - display[0]) * 3);
  }
  return { data: out, width, height };
}
