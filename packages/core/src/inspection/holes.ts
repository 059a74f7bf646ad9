import * as z from 'zod';
import type { PlainPixels } from '../formats/index.ts';

export const holeSchema = z.object({ offset: z.number(), length: z.number() });
/** Bytes of a file that were never filled. */
export type Hole = z.output<typeof holeSchema>;

/** Disks and file systems write by blocks of this size, or of a multiple. */
const BLOCK = 512;
/** So close to its ends a hole must meet something that is not zero: a picture's own zeros end at a block's edge by chance only. */
const EDGE = 4;
/** The lines above and below must be alive beside a hole; otherwise it is the picture that is black there. */
const ALIVE = 0.5;
const MOST_HOLES = 8;

/**
 * Finds stretches of zero bytes in pixels that are not packed which begin and end where blocks of
 * a disk do, while the lines above and below have a picture there: blocks that were never filled.
 * They may take one channel only, or parts of some, so the pixels alone do not show them.
 *
 * @param bytes the whole file
 * @returns the first few
 */
export function findHoles(bytes: Uint8Array, plain: readonly PlainPixels[]): Hole[] {
  const holes: Hole[] = [];
  for (const stretch of plain) addHoles(holes, bytes, stretch);
  return holes;
}

function addHoles(holes: Hole[], bytes: Uint8Array, plain: PlainPixels): void {
  const end = Math.min(plain.end, bytes.length);
  for (let at = Math.ceil((plain.start + EDGE) / BLOCK) * BLOCK; at + BLOCK < end && holes.length < MOST_HOLES; at += BLOCK) {
    if (!isEmpty(bytes, at, at + BLOCK)) continue;
    let stop = at + BLOCK;
    while (stop + BLOCK < end && isEmpty(bytes, stop, stop + BLOCK)) stop += BLOCK;
    if (isHole(bytes, at, stop, { ...plain, end })) holes.push({ offset: at, length: stop - at });
    at = stop - BLOCK;
  }
}

function isHole(bytes: Uint8Array, from: number, to: number, { start, end, lineBytes }: PlainPixels): boolean {
  if (isEmpty(bytes, Math.max(start, from - EDGE), from) || isEmpty(bytes, to, Math.min(end, to + EDGE))) return false;
  // Whole lines are a border or a bar as well as a hole.
  if ((from - start) % lineBytes === 0 && (to - from) % lineBytes === 0) return false;
  return (
    isAlive(bytes, Math.max(start, from - lineBytes), Math.max(start, Math.min(from, to - lineBytes))) &&
    isAlive(bytes, Math.min(end, Math.max(to, from + lineBytes)), Math.min(end, to + lineBytes))
  );
}

function isEmpty(bytes: Uint8Array, from: number, to: number): boolean {
  for (let i = from; i < to; i++) if (bytes[i] !== 0) return false;
  return true;
}

/** Whether most bytes of a stretch are not zero; where the picture has no line there, nothing speaks against it. */
function isAlive(bytes: Uint8Array, from: number, to: number): boolean {
  let alive = 0;
  for (let i = from; i < to; i++) if (bytes[i] !== 0) alive++;
  return alive >= (to - from) * ALIVE;
}
