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

/** A window reaches so many lines up and down, and patches of both of its ends are held against each other, three further. */
const REACH = 8;
const AROUND = REACH + 3;
/** Numbers beside a line. */
const BESIDE = 24;
/** Pixels from one window to the next, and windows of a line that are gone through together. */
const EVERY = 4;
const STRIP = 32;
/** Lines that are filtered at a time, whole rows of windows: what they need fits into some megabytes, whatever the picture. */
const BAND = 96;
/** What a pixel's own colour weighs beside what windows say of it. */
const OWN = 0.05;
/** Planes that are filtered together are so many times so many; more are filtered after them, with the same weights, found anew. */
const TOGETHER = 4;
const MOST = 20;
/** Bytes that the kernel works in: windows and columns of them, what patches differ by, and small change. */
const ROOM = (STRIP + 36) * 1024 + (256 + 4) * 528 + 3 * 8192 + 4096;

/** Filters a picture. @returns one plane a colour */
export function filterPicture(picture: PictureToFilter): Float32Array[] {
  const { colours } = picture;
  const out: Float32Array[] = [];
  for (let c = 0; c < colours.length; c += MOST) out.push(...filterSome({ ...picture, colours: colours.slice(c, c + MOST) }));
  return out;
}

/** Band after band; what windows say of the lines below theirs is taken along. */
function filterSome(picture: PictureToFilter): Float32Array[] {
  const { width, height, features, colours, sharpness } = picture;
  const out = colours.map(() => new Float32Array(width * height));
  // Numbers of a line, and bytes from one plane to the next.
  const line = 2 * BESIDE + ((width + 3) & ~3);
  const plane = aligned((BAND + 2 * AROUND) * line * 4);
  const filtered = Math.ceil(colours.length / TOGETHER) * TOGETHER;
  const given = 3 + features.length + filtered;
  const { exports, start, bytes } = room((given + filtered + 1) * plane + ROOM);
  const sums = start + given * plane;
  const weights = sums + filtered * plane;
  const scratch = weights + plane;
  bytes.fill(0, start, scratch);
  const floats = new Float32Array(bytes.buffer);
  const centres = Math.ceil(width / EVERY);
  for (let first = 0; first < height; first += BAND) {
    const end = Math.min(height, first + BAND);
    putBand(picture, first, end, floats.subarray(start / 4, sums / 4), plane / 4, line);
    features.forEach(({ scale }, i) => exports.scalePlane(start + (3 + i) * plane, plane, Math.sqrt(scale)));
    for (let centre = 0; centre < centres; centre += STRIP) {
      const middle = (AROUND * line + BESIDE + centre * EVERY) * 4;
      const [across, down] = [Math.min(STRIP, centres - centre), Math.ceil((end - first) / EVERY)];
      exports.denoiseStrip(start, plane, line * 4, middle, across, down, features.length, filtered, sharpness, scratch);
    }
    // Windows of the next band still speak of the last lines.
    const [top, bottom] = [first === 0 ? 0 : first - REACH, end === height ? height : end - REACH];
    const from = (top - first + AROUND) * line * 4;
    out.forEach((values, c) => {
      const said = sums + c * plane + from;
      exports.takeSaid(said, weights + from, said - filtered * plane, OWN, (bottom - top) * line);
      for (let y = top, at = said / 4 + BESIDE; y < bottom; y++, at += line) values.set(floats.subarray(at, at + width), y * width);
    });
    for (let at = sums; at < scratch; at += plane) {
      const kept = at + (AROUND - REACH) * line * 4;
      bytes.copyWithin(kept, kept + BAND * line * 4, at + plane);
      bytes.fill(0, kept + 2 * REACH * line * 4, at + plane);
    }
  }
  return out;
}

/** Puts what is there of a band, and of the lines around it, in the kernels' memory. @param plane, line numbers from one plane and line to the next */
function putBand(picture: PictureToFilter, first: number, end: number, out: Float32Array, plane: number, line: number): void {
  const { width, height, guide, trust, mask, features, colours } = picture;
  [guide, trust, mask, ...features.map(({ values }) => values), ...colours].forEach((values, i) => {
    for (let y = first - AROUND; y < end + AROUND; y++) {
      const at = i * plane + (y - first + AROUND) * line + BESIDE;
      // Patches beyond the border are as those at it; nothing is learnt from there.
      if (i > 1 && (y < 0 || y >= height)) {
        out.fill(0, at, at + width);
        continue;
      }
      const source = Math.min(height - 1, Math.max(0, y)) * width;
      out.set(values.subarray(source, source + width), at);
      if (i > 1) continue;
      out.fill(values[source]!, at - BESIDE, at);
      out.fill(values[source + width - 1]!, at + width, at - BESIDE + line);
    }
  });
}
