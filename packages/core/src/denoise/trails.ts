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
  return trail({ width, height }, (column, row, i) => [column + across[i]!, row + down[i]!]);
}

/** Where they are a frame after, by that frame's vectors: what moves goes on about as it came. */
export function trailAfter([across, down]: Vectors, after: Vectors, { width, height }: Size): Trail {
  return trail({ width, height }, (column, row, i) => {
    let [x, y] = [column - across[i]!, row - down[i]!];
    for (let round = 0; round < ROUNDS; round++) {
      const [nearX, nearY] = [Math.round(x), Math.round(y)];
      if (!(nearX >= 0 && nearY >= 0 && nearX < width && nearY < height)) break;
      const at = nearY * width + nearX;
      [x, y] = [column - after[0][at]!, row - after[1][at]!];
    }
    return [x, y];
  });
}

/** One trail after the other. */
export function further(first: Trail, next: Trail, { width, height }: Size): Trail {
  return trail({ width, height }, (_column, _row, i) => {
    const [x, y] = [first.x[i]!, first.y[i]!];
    const [nearX, nearY] = [Math.round(x), Math.round(y)];
    if (!(nearX >= 0 && nearY >= 0 && nearX < width && nearY < height)) return [NaN, NaN];
    const at = nearY * width + nearX;
    return [next.x[at]! + x - nearX, next.y[at]! + y - nearY];
  });
}

function trail({ width, height }: Size, place: (column: number, row: number, i: number) => readonly [number, number]): Trail {
  const [x, y] = [new Float32Array(width * height), new Float32Array(width * height)];
  for (let row = 0, i = 0; row < height; row++) {
    for (let column = 0; column < width; column++, i++) {
      const [toX, toY] = place(column, row, i);
      x[i] = toX;
      y[i] = toY;
    }
  }
  return { x, y };
}
