import path from 'node:path';
import {
  convertFrame,
  memorySource,
  otherShapeOf,
  readExrAttributes,
  recogniseFormat,
  type ConvertedFrame,
  type ConvertSource,
  type EncoderTools,
  type InterleavedPicture,
  type MendStep,
  type Recipe,
} from '@mint-tally/core';
import sharp from 'sharp';
import zlib from 'node:zlib';
import { codecTools } from '../inspection/codec-tools.ts';
import { withFile } from '../inspection/inspect-file.ts';

/** A third of the time of zlib's usual level, and hardly larger: the OpenEXR library's own choice. */
const QUICKLY: EncoderTools = { ...codecTools, deflate: (data) => zlib.deflateSync(data, { level: 4 }) };

/** What is made of a step's files, and the bytes of it. @throws FrameFileError, NotDecodedError, NotConvertedError, FileAccessError */
export async function makeFrame(folder: string, { from, recipe }: MendStep): Promise<{ made: ConvertedFrame; bytes: Uint8Array }> {
  const made = convertFrame(
    [from, ...recipe!.more].map((file) => readSource(folder, file)),
    recipe!,
    QUICKLY,
  );
  return { made, bytes: made.bytes ?? (await encodeJpeg(made.jpeg!, recipe!)) };
}

function readSource(folder: string, file: string): ConvertSource {
  return withFile(folder, file, (source) => {
    const held = memorySource(source.read(0, source.size));
    const open = recogniseFormat(held, path.basename(file)).open(held);
    const { format, alphaKind } = open.header;
    const frame = open.decode(codecTools).frame;
    // By the formats' own rules, where the file does not say.
    const usual = format === 'exr' ? 'premultiplied' : format === 'png' ? 'straight' : null;
    return {
      frame,
      alphaKind: alphaKind ?? usual,
      attributes: format === 'exr' ? readExrAttributes(held) : null,
      shape: format === 'exr' ? otherShapeOf(held) : [],
    };
  });
}

/** Whole chroma, since a hard edge of colour is what halved chroma shows first. Alpha has no place in it. */
async function encodeJpeg({ width, height, samplesPerPixel, data }: InterleavedPicture, { quality }: Recipe): Promise<Uint8Array> {
  const picture = sharp(data as Uint8Array, { raw: { width, height, channels: samplesPerPixel } });
  return new Uint8Array(await picture.removeAlpha().jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer());
}
