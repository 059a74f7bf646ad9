import { cropFrame, TILE, tilesAcross, type DecodedFrame, type FramePasses, type PassFrame, type Rectangle } from '@mint-tally/core';

/** Tiles around a part that are filtered along with it: windows and neighbours reach so far. */
const MARGIN = 2;

/** A part of a picture, with what is filtered around it. Both lie on the bounds of tiles. */
export interface Part {
  /** In the picture. */
  readonly outer: Rectangle;
  /** In `outer`. */
  readonly inner: Rectangle;
}

const sizeOf = ({ planes }: DecodedFrame): readonly [number, number] => [planes[0]!.width, planes[0]!.height];

/** The tiles that a region touches, as far as it lies in a picture; at least one. */
export function partOf([left, top, width, height]: Rectangle, frame: DecodedFrame): Part {
  const [across, down] = sizeOf(frame);
  const [x, y] = [along(left, width, across), along(top, height, down)];
  return {
    outer: [x.outer[0], y.outer[0], x.outer[1] - x.outer[0], y.outer[1] - y.outer[0]],
    inner: [x.inner[0] - x.outer[0], y.inner[0] - y.outer[0], x.inner[1] - x.inner[0], y.inner[1] - y.inner[0]],
  };
}

/** Along one side of so many pixels: the first pixel of each, and the one behind the last. */
function along(from: number, length: number, size: number): { readonly inner: readonly [number, number]; readonly outer: readonly [number, number] } {
  const all = tilesAcross(size);
  const first = Math.min(all - 1, Math.max(0, Math.floor(from / TILE)));
  const end = Math.min(all, Math.max(first + 1, Math.ceil((from + length) / TILE)));
  const pixel = (tile: number) => Math.min(size, tile * TILE);
  return { inner: [pixel(first), pixel(end)], outer: [pixel(Math.max(0, first - MARGIN)), pixel(Math.min(all, end + MARGIN))] };
}

/** The passes of a frame, each cut to a part; one of another size helps nobody. */
export function cropPasses({ colour, albedo, normal, depth, motion }: FramePasses, part: Rectangle): FramePasses {
  const [width, height] = sizeOf(colour.frame);
  const fits = ({ frame }: PassFrame) => frame.planes.every((plane) => plane.width === width && plane.height === height);
  const crop = (pass: PassFrame | null) => pass && (fits(pass) ? { ...pass, frame: cropFrame(pass.frame, part) } : null);
  return { colour: { ...colour, frame: cropFrame(colour.frame, part) }, albedo: crop(albedo), normal: crop(normal), depth: crop(depth), motion: crop(motion) };
}

/** The tiles of a part, of those of the whole picture. */
export function tilesOfPart(tiles: Float64Array, frame: DecodedFrame, [left, top, width, height]: Rectangle): Float64Array {
  const across = tilesAcross(sizeOf(frame)[0]);
  const out = new Float64Array(tilesAcross(width) * tilesAcross(height));
  for (let y = 0, i = 0; y < tilesAcross(height); y++)
    for (let x = 0; x < tilesAcross(width); x++, i++) out[i] = tiles[(top / TILE + y) * across + left / TILE + x]!;
  return out;
}

/** A part of a plane of so many columns. */
export function cutOut(plane: Float32Array, columns: number, [left, top, width, height]: Rectangle): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) out.set(plane.subarray((top + y) * columns + left, (top + y) * columns + left + width), y * width);
  return out;
}
