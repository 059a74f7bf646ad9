import * as z from 'zod';

/** How a review movie packs its pictures, by the file's extension and, where one holds several, by name. */
export const movieCodecs = ['h264', 'hevc', 'vp9', 'av1', 'prores', 'gif', 'webp'] as const;
export type MovieCodec = (typeof movieCodecs)[number];

/** The codecs that a file of an extension may hold, the usual one first. */
export const codecsOfExtension: Readonly<Record<string, readonly MovieCodec[]>> = {
  mp4: ['h264', 'hevc'],
  webm: ['vp9', 'av1'],
  mov: ['prores', 'h264', 'hevc'],
  gif: ['gif'],
  webp: ['webp'],
};

/** Files that hold one codec, by its usual extension. */
export const extensionOfCodec: Record<MovieCodec, string> = { h264: 'mp4', hevc: 'mp4', vp9: 'webm', av1: 'webm', prores: 'mov', gif: 'gif', webp: 'webp' };

/** Pixels that a movie has in all directions at most, as H.264 has them at its highest level. */
const LARGEST_SIDE = 8192;
const side = z
  .number()
  .int()
  .min(16, 'A movie is at least 16 pixels wide and high.')
  .max(LARGEST_SIDE, `A movie is at most ${LARGEST_SIDE} pixels wide and high.`);

/** What a review movie is to be. */
export const movieSettingsSchema = z.object({
  codec: z.enum(movieCodecs),
  /** 0 to 100; what a codec makes of it is for `encoderArguments` to say. Not used where a rate of bits is given. */
  quality: z.number().min(0).max(100).default(80),
  /** Bits a second; null for a constant quality. */
  bitrate: z.number().int().min(10_000, 'A movie has at least 10k bits a second.').max(2_000_000_000).nullable().default(null),
  /** Every frame by itself, so that a player can stand on each of them. */
  everyFrameKey: z.boolean().default(false),
  /** Width and height; the picture's own, with square pixels, where none is given. */
  size: z.tuple([side, side]).nullable().default(null),
  view: z.enum(['srgb', 'rec709', 'linear', 'log']).default('srgb'),
  /** Stops. */
  exposure: z.number().min(-32).max(32).default(0),
  /** What lies behind the alpha: red, green and blue as a screen shows them, 0 to 255; null to leave the alpha out. */
  background: z
    .tuple([z.number().min(0).max(255), z.number().min(0).max(255), z.number().min(0).max(255)])
    .nullable()
    .default(null),
  /** Whether shot, version, frame and timecode stand in the picture. */
  burnIn: z.boolean().default(false),
  /** A line beside them. */
  note: z.string().trim().max(200).default(''),
  /** How another sequence stands in the picture, where there is one. */
  arrange: z.enum(['beside', 'split']).default('beside'),
});
export type MovieSettings = z.output<typeof movieSettingsSchema>;

const NAMED_COLOURS: Readonly<Record<string, readonly [number, number, number]>> = {
  black: [0, 0, 0],
  white: [255, 255, 255],
  grey: [119, 119, 119],
};

/** A colour by name or as `#rrggbb`; null for what is neither. */
export function readColour(text: string): [number, number, number] | null {
  const named = NAMED_COLOURS[text.trim().toLowerCase()];
  if (named) return [...named];
  const match = /^#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(text.trim());
  return match ? [parseInt(match[1]!, 16), parseInt(match[2]!, 16), parseInt(match[3]!, 16)] : null;
}
