import { luminanceOf, MintError, paintSum, type DecodedFrame, type Luminance } from '@mint-tally/core';
import sharp from 'sharp';
import { decodeKnown, type KnownFrame } from './read-picture.ts';

/** A pass's file, with the pass's own channels where the brief names them. */
export interface SummedFile extends KnownFrame {
  readonly channels: readonly string[] | null;
}

/** A beauty that is held against the sum of its lights. */
export interface SumTask extends SummedFile {
  readonly lights: readonly SummedFile[];
}

/** Where the lights of a frame do not sum to its beauty. */
export interface SumAnswer {
  /** PNG, clear where they do. */
  readonly png: Uint8Array<ArrayBuffer>;
  /** Share of the pixels where they do not. */
  readonly share: number;
}

/** Longest side of the picture. */
const LONGEST_SIDE = 960;

/**
 * Paints where the lights of a frame do not sum to its beauty.
 *
 * @throws MintError when a file is another one by now, cannot be looked into, has no colours, or is of another size
 */
export async function readSumPicture({ lights, ...beauty }: SumTask): Promise<SumAnswer> {
  const decoded = new Map<string, DecodedFrame>();
  const luminance = (file: SummedFile): Luminance => {
    let frame = decoded.get(file.path);
    if (!frame) decoded.set(file.path, (frame = decodeKnown(file).frame));
    const read = luminanceOf(frame, file.channels);
    if (!read) throw new MintError('no-channels', `${file.path} has no colours.`, { subject: file.path });
    return read;
  };
  const picture = paintSum(luminance(beauty), lights.map(luminance), LONGEST_SIDE);
  if (!picture) throw new MintError('sizes', `The lights of ${beauty.path} are of another size.`, { subject: beauty.path });
  const { data, width, height, share } = picture;
  const png = new Uint8Array(
    await sharp(data, { raw: { width, height, channels: 4 } })
      .png()
      .toBuffer(),
  );
  return { png, share };
}
