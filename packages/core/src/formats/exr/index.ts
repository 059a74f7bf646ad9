import type { ByteSource } from '../byte-source.ts';
import type { FrameFormat } from '../frame.ts';
import { checkExrStructure } from './check.ts';
import { decodeExr } from './decode.ts';
import { EXR_MAGIC, exrFrameHeader, readExrHeader, type ExrAttribute } from './header.ts';
import { keptAttributes } from './kept-attributes.ts';
import { exrKind } from './kind.ts';
import { salvageExr } from './salvage.ts';

export { encodeExr, encodeExrParts, type ExrChannelData, type ExrPicture } from './encode.ts';
export { type ExrAttribute } from './header.ts';
export { isStorageAttribute } from './kept-attributes.ts';
export { NotRewrittenError, rewriteExr } from './rewrite.ts';
export { readStringVector, stringVector } from './string-vector.ts';
export { addHalves, floatOfHalf, floatToHalf, halfToFloat } from './half.ts';

/** What of an EXR's shape one of scan lines in a single part does not have, in words; nothing where it is just that. @throws FrameFileError */
export function otherShapeOf(source: ByteSource): string[] {
  const { parts } = readExrHeader(source);
  const levels = parts.some(({ tiles }) => tiles !== null && tiles.levels !== 'one');
  return [
    ...(parts.length > 1 ? [`${parts.length} parts become layers of one`] : []),
    ...(levels ? ['smaller levels of tiles are left out'] : parts.some(({ tiles }) => tiles !== null) ? ['tiles become scan lines'] : []),
  ];
}

/** What the header of an EXR says besides how its pixels are kept; of several parts, of the first. @throws FrameFileError */
export const readExrAttributes = (source: ByteSource): Map<string, ExrAttribute> => keptAttributes(readExrHeader(source).parts[0]!);

/** OpenEXR: scan lines and tiles, one part or several, all ten compressions; deep pixels are not decoded. */
export const exr: FrameFormat = {
  ...exrKind,
  recognises: (firstBytes) => EXR_MAGIC.every((byte, i) => firstBytes[i] === byte),
  open(source) {
    const header = readExrHeader(source);
    return {
      header: exrFrameHeader(header),
      check: () => checkExrStructure(source, header),
      decode: (tools) => decodeExr(source, header, tools),
      salvage: (tools) => salvageExr(source, header, tools),
    };
  },
};
