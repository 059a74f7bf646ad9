import { FrameFileError } from './errors.ts';

/** Left, top, width and height in pixels of the data window. */
export type Rectangle = readonly [number, number, number, number];

/** Said of a file that holds not even its first row. */
export const NO_ROW = 'Not one row of its picture can be read.';

/** What lacks of a picture whose rows stand one after the other in its file. @param rows how many are there */
export function lostRows({ width, height }: { readonly width: number; readonly height: number }, rows: number, isBottomUp = false): Rectangle[] {
  return rows < height ? [[0, isBottomUp ? 0 : rows, width, height - rows]] : [];
}

/** Joins rectangles that lie one under the other or side by side: lines that lack together are one hole. */
export function joinRectangles(rectangles: readonly Rectangle[]): Rectangle[] {
  return joinAlong(joinAlong(rectangles, 1), 0);
}

/** Joins those that touch along one axis, and agree on the other. @param axis 0 across, 1 down */
function joinAlong(rectangles: readonly Rectangle[], axis: 0 | 1): Rectangle[] {
  const other = (1 - axis) as 0 | 1;
  const sorted = [...rectangles].sort((a, b) => a[other] - b[other] || a[axis] - b[axis]);
  const joined: [number, number, number, number][] = [];
  for (const one of sorted) {
    const last = joined.at(-1);
    const goesOn = last && last[other] === one[other] && last[other + 2] === one[other + 2] && last[axis] + last[axis + 2]! === one[axis];
    if (goesOn) last[axis + 2]! += one[axis + 2]!;
    else joined.push([...one]);
  }
  return joined;
}

/** What a damaged file makes impossible is null; a fault of ours stays one. */
export function unlessDamaged<Result>(read: () => Result): Result | null {
  try {
    return read();
  } catch (thrown) {
    if (thrown instanceof FrameFileError) return null;
    throw thrown;
  }
}
