import type { NoiseBuffers } from './noise/index.ts';
import { alongSome, roomForSome } from './some-pixels.ts';

type Vectors = readonly [across: Float32Array, down: Float32Array];
type Size = Pick<NoiseBuffers, 'width' | 'height'>;

/** The fewest pixels that must move for vectors to say anything. */
const FEWEST_MOVING = 64;
/** Pixels whose vectors are shorter say nothing. */
const SHORTEST = 0.5;

/**
 * What vectors leave of the difference to the frame before, over the pixels that they say move; 1 where they explain
 * nothing. Between pixels their values are mixed, by how near they are: things that go a pixel a frame are else as far from
 * where they are said to be as from where they stand. Of several passes that show surfaces the one that they explain best
 * counts: another may itself be wrong.
 *
 * @param way -1 asks what they leave when they are turned round
 * @returns null where nothing moves, or nothing differs
 */
export function unexplainedBy(frame: NoiseBuffers, before: NoiseBuffers, way: 1 | -1 = 1): number | null {
  const { motion, width, height } = frame;
  if (!motion) return null;
  const size = { width, height };
  const { here: pixels, there: places } = movingPixels(motion, size, way);
  if (pixels.length < FEWEST_MOVING) return null;
  const shares = surfacesOf(frame).flatMap((planes, group) => {
    const others = surfacesOf(before)[group] ?? [];
    let [left, still] = [0, 0];
    planes.forEach((plane, c) => {
      const other = others[c];
      if (!other) return;
      for (let i = 0; i < pixels.length; i++) {
        const own = plane[pixels[i]!]!;
        left += Math.abs(own - valueBetween(other, places[i]!, pixels[i]!, motion, size, way));
        still += Math.abs(own - other[pixels[i]!]!);
      }
    });
    return still > 0 ? [left / still] : [];
  });
  return shares.length === 0 ? null : Math.min(...shares);
}

/** A value where a pixel's vector leads, which ends nearest to `place`; beyond the picture it is as at its edge. Asked so often that it makes no lists. */
function valueBetween(plane: Float32Array, place: number, pixel: number, motion: Vectors, { width, height }: Size, way: 1 | -1): number {
  const row = Math.floor(place / width);
  const column = place - row * width;
  const pixelRow = Math.floor(pixel / width);
  const right = pixel - pixelRow * width + way * motion[0][pixel]! - column;
  const below = pixelRow + way * motion[1][pixel]! - row;
  const besideColumn = column + Math.sign(right);
  const besideRow = row + Math.sign(below);
  const beside = besideColumn >= 0 && besideColumn < width ? besideColumn - column : 0;
  const line = besideRow >= 0 && besideRow < height ? (besideRow - row) * width : 0;
  const near = mixed(plane[place]!, plane[place + beside]!, Math.abs(right));
  const far = mixed(plane[place + line]!, plane[place + line + beside]!, Math.abs(right));
  return mixed(near, far, Math.abs(below));
}

const mixed = (from: number, to: number, share: number): number => from + share * (to - from);

/** Textures that differ by less tell nothing. */
const SEEN_TO_DIFFER = 0.05;
/** What stands still is the same to this share of what it would differ by if it moved. */
const SAME = 0.02;
/** Points of one surface: their normals' squared distance, and the share by which distances differ. */
const SAME_NORMAL = 0.1;
const SAME_DEPTH = 0.05;

/**
 * Share of the pixels which vectors say move, and whose texture can be told from that where they lead, whose texture is the
 * very same as it was there a frame before: nothing moved. Only within surfaces: the rim of a ball that turns stands still,
 * and so do its normals.
 *
 * @returns null without vectors, albedo, and normals or depth, beside a picture of another size, and where too few pixels tell
 */
export function standingShare(frame: NoiseBuffers, before: NoiseBuffers): number | null {
  const { motion, width, height, albedo, normal, depth } = frame;
  const earlier = before.width === width && before.height === height ? before.albedo : null;
  if (!motion || !albedo || !earlier || (!(normal && before.normal) && !(depth && before.depth))) return null;
  const { here, there } = movingPixels(motion, { width, height });
  const isOneSurface = (own: number, other: number) =>
    !(normal && before.normal && normal.reduce((sum, plane, c) => sum + (plane[own]! - before.normal![c]![other]!) ** 2, 0) > SAME_NORMAL) &&
    !(depth && before.depth && !(Math.abs(depth[own]! - before.depth[other]!) <= SAME_DEPTH * Math.abs(depth[own]!)));
  let [told, standing] = [0, 0];
  for (let i = 0; i < here.length; i++) {
    const moved = leastChange(albedo[here[i]!]!, earlier, there[i]!, width);
    const still = Math.abs(albedo[here[i]!]! - earlier[here[i]!]!);
    if (!(Math.max(moved, still) > SEEN_TO_DIFFER) || !isOneSurface(here[i]!, there[i]!)) continue;
    told++;
    if (still < SAME * moved) standing++;
  }
  return told < FEWEST_MOVING ? null : standing / told;
}

/** What a texture differs by at least from the nine pixels around a place: that is rounded, and may lie beyond an edge of the texture. */
function leastChange(own: number, texture: Float32Array, place: number, width: number): number {
  let least = Infinity;
  for (let row = place - width; row <= place + width; row += width)
    for (let i = row - 1; i <= row + 1; i++) if (i >= 0 && i < texture.length) least = Math.min(least, Math.abs(own - texture[i]!));
  return least;
}

/** Of larger pictures so many pixels tell what vectors leave: they are asked one by one, all over two frames. */
const MOST_MOVING = 20_000;

/** Pixels that move, and their places in the frame before; of larger pictures some of them. */
function movingPixels([across, down]: Vectors, { width, height }: Size, way: 1 | -1 = 1): { here: Int32Array; there: Int32Array } {
  const room = roomForSome(width, height, MOST_MOVING);
  const [here, there] = [new Int32Array(room), new Int32Array(room)];
  let count = 0;
  alongSome(width, height, MOST_MOVING, (y, line, first, end) => {
    for (let x = first; x < end; x++) {
      const i = line + x;
      if (!(Math.abs(across[i]!) + Math.abs(down[i]!) > SHORTEST)) continue;
      const [column, row] = [Math.round(x + way * across[i]!), Math.round(y + way * down[i]!)];
      if (column < 0 || row < 0 || column >= width || row >= height) continue;
      here[count] = i;
      there[count++] = row * width + column;
    }
  });
  return { here: here.subarray(0, count), there: there.subarray(0, count) };
}

/** The planes of each pass that shows surfaces; light where none does. */
function surfacesOf({ albedo, normal, luminance }: NoiseBuffers): readonly (readonly Float32Array[])[] {
  const surfaces = [...(albedo ? [[albedo]] : []), ...(normal ? [normal] : [])];
  return surfaces.length > 0 ? surfaces : [[luminance]];
}
