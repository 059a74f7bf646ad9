import * as z from 'zod';

/**
 * How a frame was seen:
 * - `full`: in its time at the ordered rate, a pixel of the picture on at least one of the screen;
 * - `fitted`: in its time at the ordered rate, but smaller than it is;
 * - `stepped`: standing still.
 */
export const waysOfSeeing = ['full', 'fitted', 'stepped'] as const;
export type WayOfSeeing = (typeof waysOfSeeing)[number];

/** Parts of a frame that are kept apart, across and down: one larger than the screen is watched part by part. */
export const PARTS_ACROSS = 6;
export const PARTS_DOWN = 5;
/** All parts, a bit each. */
export const ALL_PARTS = 2 ** (PARTS_ACROSS * PARTS_DOWN) - 1;

/** The first 16 hexadecimal digits of a file's SHA-256 name its content: of a shot's files no two others share them. */
export const CONTENT_DIGITS = 16;
export const contentSchema = z.string().regex(/^[0-9a-f]{16}$/, 'A content is named by 16 hexadecimal digits.');

/** That somebody has seen a frame of a pass, as it was then. */
export const sightSchema = z.object({
  frame: z.number().int(),
  content: contentSchema,
  way: z.enum(waysOfSeeing),
  /** Bits of the parts that stood on the screen, row by row from the upper left. */
  parts: z.number().int().min(0).max(ALL_PARTS),
});
export type Sight = z.output<typeof sightSchema>;

/**
 * The parts of a frame that lie wholly within what is visible of it.
 *
 * @param visible left, top, right and bottom as shares of the frame's width and height
 */
export function partsWithin([left, top, right, bottom]: readonly [number, number, number, number]): number {
  // Half a percent of a part: the edge of a pixel may lie a little aside.
  const slack = 0.005;
  const isWithin = (part: number, parts: number, from: number, to: number) => part / parts >= from - slack / parts && (part + 1) / parts <= to + slack / parts;
  let bits = 0;
  for (let row = 0; row < PARTS_DOWN; row++) {
    if (!isWithin(row, PARTS_DOWN, top, bottom)) continue;
    for (let column = 0; column < PARTS_ACROSS; column++) if (isWithin(column, PARTS_ACROSS, left, right)) bits |= 1 << (row * PARTS_ACROSS + column);
  }
  return bits;
}

/** The upper left corner of the first part that is not among these, as shares of width and height; null when all are. */
export function firstPartOutside(parts: number): readonly [number, number] | null {
  for (let part = 0; part < PARTS_ACROSS * PARTS_DOWN; part++) {
    if ((parts & (1 << part)) === 0) return [(part % PARTS_ACROSS) / PARTS_ACROSS, Math.floor(part / PARTS_ACROSS) / PARTS_DOWN];
  }
  return null;
}
