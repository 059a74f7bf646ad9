import { aligned, room } from './memory.ts';

/** Behind planes that lie beside each other stand zeros up to whole vectors. */
function putPlanes(planes: readonly (Float32Array | null)[], more: number) {
  const size = aligned(Math.max(0, ...planes.map((plane) => plane?.byteLength ?? 0)));
  const { exports, start, bytes } = room(planes.length * size + more);
  const floats = new Float32Array(bytes.buffer);
  planes.forEach((plane, i) => {
    const at = start + i * size;
    if (plane) floats.set(plane, at / 4);
    const end = at + (plane?.byteLength ?? 0);
    bytes.fill(0, end, at + size);
  });
  return { exports, bytes, start, next: size, behind: start + planes.length * size };
}

/** Lines of planes whose edges are looked at, as stretches [first, end). */
export type Stretches = readonly (readonly [first: number, end: number])[];

/**
 * Strength of the edges of a picture along stretches of its lines, one after the other: gradients of means of 3 x 3 pixels of
 * the logarithms of its values, summed over its planes.
 *
 * @param stretches none begins before line 2, or ends behind the last but two
 * @param farthest values from there on count as zero
 */
export function edgesAlong(planes: readonly Float32Array[], width: number, stretches: Stretches, farthest: number): Float32Array {
  const out = new Float32Array(stretches.reduce((sum, [first, end]) => sum + (end - first) * width, 0));
  const most = Math.max(0, ...stretches.map(([first, end]) => end - first + 4)) * width * 4;
  const { exports, start, bytes } = room(4 * aligned(most));
  const floats = new Float32Array(bytes.buffer);
  const [values, scratch, edges] = [start, start + aligned(most), start + 3 * aligned(most) + 64];
  let at = 0;
  for (const [first, end] of stretches) {
    const count = (end - first) * width;
    bytes.fill(0, edges, edges + count * 4);
    for (const plane of planes) {
      floats.set(plane.subarray((first - 2) * width, (end + 2) * width), values / 4);
      exports.addEdges(values, width, end - first, farthest, scratch, edges);
    }
    out.set(floats.subarray(edges / 4, edges / 4 + count), at);
    at += count;
  }
  return out;
}

/** Sums over the pixels that change in a pass. */
export interface ChangeSums {
  readonly own: number;
  /** Squares of the beauty's three changes, and their products with the pass's. */
  readonly beauty: readonly [number, number, number];
  readonly both: readonly [number, number, number];
}

/**
 * How a pass changes from one plane to the next, and how the beauty does along four.
 *
 * @param pass two planes
 * @param beauty four; all of one length
 */
export function sumOfChanges(pass: readonly Float32Array[], beauty: readonly Float32Array[]): ChangeSums {
  const { exports, bytes, start, next, behind } = putPlanes([...pass, ...beauty], 7 * 8);
  exports.sumChanges(start, next, pass[0]!.byteLength, behind);
  const sums = new Float64Array(bytes.buffer, behind, 7);
  return { own: sums[0]!, beauty: [sums[1]!, sums[2]!, sums[3]!], both: [sums[4]!, sums[5]!, sums[6]!] };
}

/** What the pixels of a pass are. */
const KINDS = { depth: 0, signedNormal: 1, normal: 2, share: 3, whole: 4 } as const;

/** Pixels that are looked at together: their planes fit where they are quickly at hand. */
const AT_ONCE = 1 << 15;

/** Goes through planes of one length in pieces, until one is enough. */
function inPieces(planes: readonly (Float32Array | null)[], visit: (pieces: readonly (Float32Array | null)[], count: number) => boolean): void {
  const length = planes[0]?.length ?? 0;
  for (let from = 0; from < length; from += AT_ONCE) {
    const to = Math.min(length, from + AT_ONCE);
    const isEnough = visit(
      planes.map((plane) => plane && plane.subarray(from, to)),
      to - from,
    );
    if (isEnough) return;
  }
}

/** Counts the covered pixels of a pass, and those of them that hold what it cannot hold. @param alpha pixels with less than `covered` do not count */
export function countOddPixels(
  kind: keyof typeof KINDS,
  planes: readonly Float32Array[],
  tolerance: number,
  alpha: Float32Array | null,
  covered: number,
): { readonly all: number; readonly odd: number } {
  let [all, odd] = [0, 0];
  inPieces([...planes, alpha], (pieces, count) => {
    const { exports, bytes, start, next, behind } = putPlanes(pieces, 2 * 8);
    const at = alpha ? start + planes.length * next : 0;
    exports.countOdd(KINDS[kind], start, next, planes.length, tolerance, at, covered, count, behind);
    const counts = new Float64Array(bytes.buffer, behind, 2);
    all += counts[0]!;
    odd += counts[1]!;
    return false;
  });
  return { all, odd };
}

/** Whether all values of a plane are numbers, and none is infinite. */
export function areNumbers(plane: Float32Array): boolean {
  let isOdd = false;
  inPieces([plane], (pieces, count) => {
    const { exports, start } = putPlanes(pieces, 0);
    return (isOdd = exports.hasNoNumber(start, count) === 1);
  });
  return !isOdd;
}

/** Whether any value of some planes is below a limit, which is below zero. */
export function isAnyBelow(planes: readonly Float32Array[], limit: number): boolean {
  return planes.some((plane) => {
    let isBelow = false;
    inPieces([plane], (pieces, count) => {
      const { exports, start } = putPlanes(pieces, 0);
      return (isBelow = exports.hasBelow(start, count, limit) === 1);
    });
    return isBelow;
  });
}

type Vectors = readonly [across: Float32Array, down: Float32Array];

/** Where each pixel's point is in the frame before, by the frame's own vectors: its place, or -1. */
export function placesBefore([across, down]: Vectors, width: number, height: number): Int32Array {
  const { exports, bytes, start, next, behind } = putPlanes([across, down], aligned(width * height * 4));
  exports.placesBefore(start, start + next, width, height, behind);
  return new Int32Array(bytes.buffer, behind, width * height).slice();
}

/** Where each pixel's point is in the frame after, by that frame's vectors. @param own vectors of the frame itself */
export function placesAfter([across, down]: Vectors, own: Vectors, width: number, height: number): Int32Array {
  const { exports, bytes, start, next, behind } = putPlanes([across, down, ...own], aligned(width * height * 4));
  exports.placesAfter(start, start + next, start + 2 * next, start + 3 * next, width, height, behind);
  return new Int32Array(bytes.buffer, behind, width * height).slice();
}

/** Planes that are brought together. */
const TOGETHER = 4;

/** Places between the pixels of another picture, one for each pixel of a picture of its size. */
interface Places {
  readonly x: Float32Array;
  readonly y: Float32Array;
}

/**
 * Brings planes of a picture onto another of its size, from places between its pixels.
 *
 * @param trail where each pixel is found; zeros come out of places that are no numbers, or outside
 */
export function planesBrought(planes: readonly Float32Array[], trail: Places, width: number, height: number): Float32Array[] {
  const brought: Float32Array[] = [];
  eachPlaneBrought(planes, trail, width, height, (plane) => brought.push(plane.slice()));
  return brought;
}

/** Likewise one after the other. @param visit what it is given is gone when it returns */
export function eachPlaneBrought(
  planes: readonly Float32Array[],
  { x, y }: Places,
  width: number,
  height: number,
  visit: (plane: Float32Array, place: number) => void,
): void {
  const count = width * height;
  for (let first = 0; first < planes.length; first += TOGETHER) {
    const some = planes.slice(first, first + TOGETHER);
    // Those that are wanted, and as many more as stand together.
    const { exports, bytes, start, next, behind } = putPlanes(
      [...some, ...Array.from({ length: TOGETHER - some.length }, () => null), x, y],
      aligned(4 * count * TOGETHER),
    );
    exports.togetherByPixel(start, next, count, behind);
    exports.bringPixels(behind, width, height, start + TOGETHER * next, start + (TOGETHER + 1) * next, count, start, next);
    const floats = new Float32Array(bytes.buffer);
    some.forEach((_, c) => visit(floats.subarray((start + c * next) / 4, (start + c * next) / 4 + count), first + c));
  }
}
