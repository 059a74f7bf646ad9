/** Vectors in pixels, right and down, to where a point was a frame before. */
export type Vectors = readonly [across: Float32Array, down: Float32Array];

/** Where each point of a frame is in another: places between pixels; not numbers where that is not known. */
export interface Trail {
  readonly x: Float32Array;
  readonly y: Float32Array;
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Where what moves goes is found by going back from there, so many times. */
const ROUNDS = 3;

/** Where a frame's points were a frame before. */
export function trailBefore([across, down]: Vectors, { width, height }: Size): Trail {
  const trail = empty(width * height);
  for (let row = 0, i = 0; row < height; row++) {
    for (let column = 0; column < width; column++, i++) {
      trail.x[i] = column + across[i]!;
      trail.y[i] = row + down[i]!;
    }
  }
  return trail;
}

/** Where they are a frame after, by that frame's vectors: what moves goes on about as it came. */
export function trailAfter([across, down]: Vectors, after: Vectors, { width, height }: Size): Trail {
  const trail = empty(width * height);
  for (let row = 0, i = 0; row < height; row++) {
    for (let column = 0; column < width; column++, i++) {
      let x = column - across[i]!;
      let y = row - down[i]!;
      for (let round = 0; round < ROUNDS; round++) {
        const at = pixelAt(x, y, width, height);
        if (at < 0) break;
        x = column - after[0][at]!;
        y = row - after[1][at]!;
      }
      trail.x[i] = x;
      trail.y[i] = y;
    }
  }
  return trail;
}

/** One trail after the other. */
export function further(first: Trail, next: Trail, { width, height }: Size): Trail {
  const trail = empty(width * height);
  for (let i = 0; i < trail.x.length; i++) {
    const x = first.x[i]!;
    const y = first.y[i]!;
    const at = pixelAt(x, y, width, height);
    trail.x[i] = at < 0 ? NaN : next.x[at]! + x - Math.round(x);
    trail.y[i] = at < 0 ? NaN : next.y[at]! + y - Math.round(y);
  }
  return trail;
}

const empty = (count: number): Trail => ({ x: new Float32Array(count), y: new Float32Array(count) });

/** The nearest pixel; -1 outside, and for what is no number. */
function pixelAt(x: number, y: number, width: number, height: number): number {
  const [column, row] = [Math.round(x), Math.round(y)];
  return column >= 0 && row >= 0 && column < width && row < height ? row * width + column : -1;
}
