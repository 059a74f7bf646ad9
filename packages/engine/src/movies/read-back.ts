import { judgeMovie, meanDifference, probedSchema, type ExpectedMovie, MovieError } from '@mint-tally/core';
import sharp from 'sharp';
import { bytesFrom } from './encoder.ts';

const MOST_PROBED = 1 << 20;

/** What a movie was found to be when it was read again. */
export interface ReadBack {
  /** How far its first and its last picture lie from those that were fed, in the mean, of 255. */
  readonly differences: number[];
}

/**
 * Reads a movie that was written from its first byte to its last, and holds frame count, size, rate, length, colour tags, first
 * and last picture against what was fed.
 *
 * @param ends the first and the last picture, three bytes a pixel
 * @throws MovieError when it is another
 */
export async function readBack(file: string, expected: ExpectedMovie, ends: readonly [Uint8Array, Uint8Array]): Promise<ReadBack> {
  const { settings, frames } = expected;
  const { probed, pictures } = settings.codec === 'webp' ? await ofAnimation(file, expected) : await ofMovie(file, expected);
  const differences = [meanDifference(pictures[0], ends[0], expected.width), meanDifference(pictures[1], ends[1], expected.width)];
  const problems = judgeMovie(probed, expected, frames === 1 ? differences.slice(0, 1) : differences);
  if (problems.length > 0)
    throw new MovieError(
      'movie',
      `The movie is not what was fed to the encoder: ${problems.join('; ')}.`,
      'Nothing was kept of it. Choose another codec, or a higher quality.',
      file,
    );
  return { differences };
}

async function ofMovie(file: string, { frames, width, height }: ExpectedMovie) {
  const entries =
    'stream=codec_name,width,height,r_frame_rate,avg_frame_rate,color_space,color_primaries,color_transfer,color_range,nb_read_frames:format=duration';
  const said = await bytesFrom(
    'ffprobe',
    ['-v', 'error', '-count_frames', '-select_streams', 'v:0', '-show_entries', entries, '-of', 'json', file],
    MOST_PROBED,
  );
  const size = width * height * 3;
  const bytes = await bytesFrom(
    'ffmpeg',
    [
      ...[
        '-v',
        'error',
        '-i',
        file,
        '-map',
        '0:v:0',
        '-vf',
        `select='eq(n,0)+eq(n,${frames - 1})',scale=in_color_matrix=bt709:flags=accurate_rnd+full_chroma_int`,
      ],
      ...['-vsync', '0', '-f', 'rawvideo', '-pix_fmt', 'rgb24', 'pipe:1'],
    ],
    2 * size,
  );
  return { probed: probedSchema.parse(JSON.parse(said.toString())), pictures: [bytes.subarray(0, size), bytes.subarray(bytes.length - size)] as const };
}

/** An animated WebP, which ffmpeg writes and does not read. */
async function ofAnimation(file: string, { frames }: ExpectedMovie) {
  const { pages = 1, pageHeight, width = 0, height = 0 } = await sharp(file).metadata();
  const page = (number: number) => sharp(file, { page: number }).removeAlpha().raw().toBuffer();
  const probed = {
    streams: [{ codec_name: 'webp', width, height: pageHeight ?? height, r_frame_rate: '', avg_frame_rate: '', nb_read_frames: pages }],
    format: {},
  };
  return { probed, pictures: [await page(0), await page(Math.min(pages, frames) - 1)] as const };
}
