import * as z from 'zod';

/** Formats that frames can be converted to. */
export const writtenFormats = ['exr', 'png', 'tiff', 'jpeg', 'tga', 'dpx'] as const;
export type WrittenFormat = (typeof writtenFormats)[number];

/** How EXR packs pixels. */
export const exrCompressions = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'dwaa', 'dwab'] as const;
export type ExrCompression = (typeof exrCompressions)[number];

export const writtenDepths = ['same', '8', '10', '16', 'half', 'float'] as const;
export type WrittenDepth = (typeof writtenDepths)[number];

const kindSchema = z.object({
  format: z.enum(writtenFormats),
  /** As the source has it, or the nearest that the format can hold. */
  depth: z.enum(writtenDepths).default('same'),
  compression: z.enum(exrCompressions).default('zip'),
  /** What is made of the alpha: kept as it is, multiplied in, divided out, or left away. */
  alpha: z.enum(['same', 'premultiplied', 'straight', 'none']).default('same'),
  /** How whole numbers stand for light where they are made of floats, or floats of them. */
  curve: z.enum(['srgb', 'rec709', 'linear']).default('srgb'),
  /** Of JPEG, 1 to 100. */
  quality: z.number().int().min(1).max(100).default(95),
});

/** What all frames of some passes are to become. */
export const conversionSchema = kindSchema.extend({
  /** Layers of one file each into its own, or files of all passes into one. */
  layers: z.enum(['same', 'split', 'gather-layers', 'gather-views', 'gather-parts']).default('same'),
  /** Names of the channels that are kept, where a file has them; none stands for all. */
  channels: z.array(z.string().min(1).max(255)).max(1000).default([]),
  /** Folder below the shot's to write into; with none the originals make room, and are set aside. */
  into: z
    .string()
    .max(1000)
    .regex(/^(?!\/)(?!.*(^|\/)\.\.?(\/|$))[^\\\0]*$/, 'A folder below the shot’s is named without .. and leading /.')
    .default(''),
});
export type Conversion = z.output<typeof conversionSchema>;

/** How one file is made of others. */
export const recipeSchema = kindSchema.extend({
  /** Files besides the first that it is made of, relative to the shot's folder. */
  more: z.array(z.string().min(1).max(4096)).max(1000).default([]),
  /** The channels that are written, by the file that each comes from; all of the first where none are named. */
  channels: z
    .array(z.object({ file: z.number().int().min(0), from: z.string().max(255), to: z.string().max(255), part: z.string().max(255).default('') }))
    .max(5000)
    .default([]),
  /** Names of the views that the channels are of, the plain ones of the first; none for a file of one view. */
  views: z.array(z.string().min(1).max(255)).max(100).default([]),
});
export type Recipe = z.output<typeof recipeSchema>;

const SAYS_LAYERS = {
  split: 'a file a layer',
  'gather-layers': 'one file of all passes',
  'gather-views': 'one file of all passes, a view each',
  'gather-parts': 'one file of all passes, a part each',
};

/** A conversion in words. */
export function sayConversion({ format, depth, compression, alpha, layers, channels }: Conversion): string {
  const parts = [
    format.toUpperCase(),
    ...(depth === 'same' ? [] : [/^\d/.test(depth) ? `${depth} bit` : depth]),
    ...(format === 'exr' ? [compression] : []),
    ...(channels.length === 0 ? [] : [`${channels.join(', ')} alone`]),
    ...(alpha === 'same' ? [] : [alpha === 'none' ? 'without alpha' : `${alpha} alpha`]),
    ...(layers === 'same' ? [] : [SAYS_LAYERS[layers]]),
  ];
  return parts.join(', ');
}
