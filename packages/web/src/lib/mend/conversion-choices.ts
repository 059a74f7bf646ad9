import { conversionSchema, exrCompressions, type Brief, type Conversion, type WrittenFormat } from '@mint-tally/core';

export const formatTitles: Record<WrittenFormat, string> = { exr: 'EXR', png: 'PNG', tiff: 'TIFF', jpeg: 'JPEG', tga: 'TGA', dpx: 'DPX' };

const DEPTHS = {
  same: 'as it is, or nearest',
  '8': '8 bit',
  '10': '10 bit',
  '16': '16 bit',
  half: 'half',
  float: 'float',
} as const;
type Depth = keyof typeof DEPTHS;

const HELD: Record<WrittenFormat, readonly Depth[]> = {
  exr: ['half', 'float'],
  png: ['8', '16'],
  tiff: ['8', '16', 'half', 'float'],
  jpeg: ['8'],
  tga: ['8'],
  dpx: ['8', '10', '16'],
};

/** The depths that can be chosen for a format. */
export const depthsFor = (format: string): (readonly [string, string])[] =>
  (['same', ...HELD[format as WrittenFormat]] as const).map((depth) => [depth, DEPTHS[depth]] as const);

export const layerTitles = [
  ['same', 'as they are'],
  ['split', 'a file for each layer or view'],
  ['gather-layers', 'all passes as layers of one file'],
  ['gather-views', 'all passes as views of one file'],
  ['gather-parts', 'all passes as parts of one file'],
] as const;

const BY_EXTENSION: Partial<Record<string, WrittenFormat>> = {
  exr: 'exr',
  png: 'png',
  tif: 'tiff',
  tiff: 'tiff',
  jpg: 'jpeg',
  jpeg: 'jpeg',
  tga: 'tga',
  dpx: 'dpx',
};

/** The conversion to what a pass is ordered as; of the first pass where none is named. */
export function conversionFor({ passes }: Brief, pass: string): Conversion {
  const ordered = passes.find(({ name }) => name === pass) ?? passes[0];
  const extension = ordered?.pattern.split('.').at(-1)?.toLowerCase() ?? '';
  const format = BY_EXTENSION[extension] ?? 'exr';
  const depth = HELD[format].find((one) => one === ordered?.depth) ?? 'same';
  const compression = exrCompressions.find((one) => ordered?.compression?.includes(one)) ?? 'zip';
  return conversionSchema.parse({ format, depth, compression });
}
