import { aligned, room } from './memory.ts';

/** What explains a picture's colours: its squared difference times `scale` counts like a difference of patches. */
export interface FilterFeature {
  readonly values: Float32Array;
  readonly scale: number;
}

/** What is filtered: planes row by row, all of one size, without anything that is no number. */
export interface PictureToFilter {
  readonly width: number;
  readonly height: number;
  /** What patches are compared by, and for each pixel one over twice its variance. */
  readonly guide: Float32Array;
  readonly trust: Float32Array;
  /** 1 for the pixels that the others may learn from, else 0. */
  readonly mask: Float32Array;
  /** At most eleven. */
  readonly features: readonly FilterFeature[];
  /** However many: what one says of another does not change what comes of that. */
  readonly colours: readonly Float32Array[];
  /** What differences of patches are multiplied with, beyond those that noise makes. */
  readonly sharpness: number;
}

/** A window reaches so far; patches of both of its ends are held against each other, so far again. */
const REACH = 8;
const AROUND = 2 * REACH + 3;
/** Numbers beside a line. */
const BESIDE = 24;
/** Pixels from one window to the next. */
const EVERY = 4;
/** Lines that are filtered at a time: what they need fits into some megabytes, whatever the picture. */
const BAND = 96;
/** What a pixel's own colour weighs beside what windows say of it. */
const OWN = 0.05;
/** Planes that are filtered together are so many times so many; more are filtered after them, with the same weights, found anew. */
const TOGETHER = 4;
const MOST = 20;
const WINDOW = 17 * 80;
const ROOM = 32 * WINDOW + 36 * WINDOW + 1024 + 4 * 8192;

/** Filters lines of a picture: the same whichever lines are asked for together. @returns one plane a colour, with those lines alone */
export function filterPicture(picture: PictureToFilter, from: number, to: number): Float32Array[] {
  const { width, colours } = picture;
  const out = colours.map(() => new Float32Array((to - from) * width));
  for (let c = 0; c < colours.length; c += MOST) {
    const some = { ...picture, colours: colours.slice(c, c + MOST) };
    for (let first = from; first < to; first += BAND) filterBand(some, first, Math.min(to, first + BAND), from, out.slice(c, c + MOST));
  }
  return out;
}

function filterBand(picture: PictureToFilter, first: number, end: number, from: number, out: readonly Float32Array[]): void {
  const { width, height, guide, trust, mask, features, colours } = picture;
  const stride = 2 * BESIDE + ((width + 3) & ~3);
  const lines = end - first + 2 * AROUND;
  const plane = aligned(lines * stride * 4);
  const filtered = Math.ceil(colours.length / TOGETHER) * TOGETHER;
  const planes = 3 + features.length + 2 * filtered + 1;
  const { exports, start, bytes } = room(planes * plane + 64 + ROOM);
  bytes.fill(0, start, start + planes * plane);
  const floats = new Float32Array(bytes.buffer);
  const scales = start + planes * plane;
  floats.set(
    features.map(({ scale }) => scale),
    scales / 4,
  );
  [guide, trust, mask, ...features.map(({ values }) => values), ...colours].forEach((values, i) => {
    for (let line = 0; line < lines; line++) {
      const y = first - AROUND + line;
      const isThere = y >= 0 && y < height;
      // Patches beyond the border are as those at it; nothing is learnt from there.
      if (!isThere && i > 1) continue;
      const at = (start + i * plane) / 4 + line * stride + BESIDE;
      const source = Math.min(height - 1, Math.max(0, y)) * width;
      floats.set(values.subarray(source, source + width), at);
      if (i > 1) continue;
      floats.fill(values[source]!, at - BESIDE, at);
      floats.fill(values[source + width - 1]!, at + width, at - BESIDE + stride);
    }
  });
  const centres = Math.ceil(width / EVERY);
  for (let y = Math.ceil(Math.max(0, first - REACH) / EVERY) * EVERY; y < Math.min(height, end + REACH); y += EVERY) {
    const middle = ((y - first + AROUND) * stride + BESIDE) * 4;
    exports.denoiseRow(start, plane, stride * 4, middle, centres, features.length, filtered, scales, picture.sharpness, scales + 64);
  }
  const sums = (start + (3 + features.length + filtered) * plane) / 4;
  const weights = sums + (filtered * plane) / 4;
  colours.forEach((own, c) => {
    for (let y = first; y < end; y++) {
      const at = (y - first + AROUND) * stride + BESIDE;
      const to = (y - from) * width;
      // Each pixel speaks for itself as well: some are like none of the centres.
      for (let x = 0; x < width; x++)
        out[c]![to + x] = (floats[sums + (c * plane) / 4 + at + x]! + OWN * own[y * width + x]!) / (floats[weights + at + x]! + OWN);
    }
  });
}
