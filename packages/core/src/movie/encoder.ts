import type { FrameRate } from '../timing/index.ts';
import type { MovieCodec, MovieSettings } from './settings.ts';

/** What an encoder is fed with and makes. */
export interface EncoderOrder {
  readonly settings: MovieSettings;
  readonly rate: FrameRate;
  readonly width: number;
  readonly height: number;
  /** A sound file, and how far into it the movie begins; null for none. */
  readonly sound: { readonly file: string; readonly from: number } | null;
  readonly seconds: number;
  /** Where it writes to. */
  readonly target: string;
}

/** Codecs that hold a movie's light at half the width and height for colour: their pictures have even sides. */
export const needsEvenSides = (codec: MovieCodec) => codec !== 'gif' && codec !== 'webp';

/** Of a picture's quality, 0 to 100, each encoder's own constant quality: 80 is hardly told from the original by eye. */
const constantQuality: Record<'h264' | 'hevc' | 'vp9' | 'av1', (quality: number) => number> = {
  h264: (quality) => 40 - 0.28 * quality,
  hevc: (quality) => 42 - 0.28 * quality,
  vp9: (quality) => 56 - 0.36 * quality,
  av1: (quality) => 58 - 0.4 * quality,
};

/** The profiles of ProRes by quality: proxy, light, standard, high. */
const proresProfile = (quality: number) => (quality < 40 ? 0 : quality < 60 ? 1 : quality < 90 ? 2 : 3);

/**
 * Full-range red, green and blue become Rec. 709's luma and colour in the range of a studio (ITU-R BT.709, section 3), and the
 * file says so: a player that is told nothing guesses by the picture's size.
 */
const toRec709 = (format: string) => `scale=in_range=full:out_range=tv:out_color_matrix=bt709:flags=accurate_rnd+full_chroma_int,format=${format}`;
const REC_709 = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv'];

/** ProRes says its colours in its own pictures (SMPTE RDD 36, section 5.1.1), which its encoder leaves open. */
const PRORES_REC_709 = ['-bsf:v', 'prores_metadata=color_primaries=bt709:color_trc=bt709:colorspace=bt709'];

/** Arguments for ffmpeg that is fed pictures of three bytes a pixel by its standard input. */
export function encoderArguments(order: EncoderOrder): string[] {
  const { settings, rate, width, height, sound, target } = order;
  const perSecond = `${rate.numerator}/${rate.denominator}`;
  return [
    ...['-hide_banner', '-loglevel', 'error', '-nostats', '-y'],
    ...['-f', 'rawvideo', '-pixel_format', 'rgb24', '-video_size', `${width}x${height}`, '-framerate', perSecond, '-i', 'pipe:0'],
    ...soundInput(sound, settings.codec),
    ...['-map', '0:v'],
    ...videoArguments(settings, rate),
    ...soundOutput(sound, settings.codec, order.seconds),
    // Nothing of when or by what it was made: the same pictures give the same file.
    ...['-map_metadata', '-1', '-fflags', '+bitexact', '-flags:v', '+bitexact'],
    ...container(settings.codec, rate, target),
    target,
  ];
}

const canHoldSound = (codec: MovieCodec) => codec !== 'gif' && codec !== 'webp';

function soundInput(sound: EncoderOrder['sound'], codec: MovieCodec): string[] {
  return sound && canHoldSound(codec) ? ['-ss', sound.from.toFixed(6), '-i', sound.file] : [];
}

/** Silence behind a track that ends early, and its end cut where the pictures end. */
function soundOutput(sound: EncoderOrder['sound'], codec: MovieCodec, seconds: number): string[] {
  if (!sound || !canHoldSound(codec)) return ['-an'];
  const coder =
    codec === 'prores' ? ['-c:a', 'pcm_s24le'] : codec === 'vp9' || codec === 'av1' ? ['-c:a', 'libopus', '-b:a', '160k'] : ['-c:a', 'aac', '-b:a', '256k'];
  return ['-map', '1:a:0', '-af', `aresample=48000,apad,atrim=duration=${seconds.toFixed(6)}`, ...coder];
}

function videoArguments(settings: MovieSettings, rate: FrameRate): string[] {
  const { codec, quality, bitrate, everyFrameKey } = settings;
  const bits = bitrate === null ? null : ['-b:v', String(bitrate), '-minrate', String(bitrate), '-maxrate', String(bitrate), '-bufsize', String(bitrate)];
  const keys = everyFrameKey ? ['-g', '1'] : ['-g', String(Math.max(1, Math.round((2 * rate.numerator) / rate.denominator)))];
  switch (codec) {
    case 'h264':
      return [
        '-vf',
        toRec709('yuv420p'),
        '-c:v',
        'libx264',
        '-preset',
        'medium',
        ...(bits ?? ['-crf', constantQuality.h264(quality).toFixed(1)]),
        ...keys,
        ...REC_709,
      ];
    case 'hevc': {
      const own = `log-level=error${bitrate === null ? '' : `:vbv-maxrate=${Math.round(bitrate / 1000)}:vbv-bufsize=${Math.round(bitrate / 1000)}`}`;
      const by = bits ? ['-b:v', String(bitrate)] : ['-crf', constantQuality.hevc(quality).toFixed(1)];
      return ['-vf', toRec709('yuv420p'), '-c:v', 'libx265', '-preset', 'medium', '-tag:v', 'hvc1', '-x265-params', own, ...by, ...keys, ...REC_709];
    }
    case 'vp9':
      return [
        ...['-vf', toRec709('yuv420p'), '-c:v', 'libvpx-vp9', '-row-mt', '1', '-cpu-used', '4'],
        ...(bits ?? ['-b:v', '0', '-crf', constantQuality.vp9(quality).toFixed(0)]),
        ...keys,
        ...REC_709,
      ];
    case 'av1':
      return [
        ...['-vf', toRec709('yuv420p'), '-c:v', 'libsvtav1', '-preset', '8'],
        ...(bitrate === null ? ['-crf', constantQuality.av1(quality).toFixed(0)] : ['-b:v', String(bitrate)]),
        ...keys,
        ...REC_709,
      ];
    case 'prores':
      return [
        '-vf',
        toRec709('yuv422p10le'),
        '-c:v',
        'prores_ks',
        '-profile:v',
        String(proresProfile(quality)),
        '-vendor',
        'apl0',
        ...PRORES_REC_709,
        ...REC_709,
      ];
    case 'gif':
      return ['-vf', 'split[a][b];[a]palettegen=stats_mode=diff[p];[b][p]paletteuse=dither=sierra2_4a', '-loop', '0'];
    case 'webp':
      return ['-vf', 'format=yuva420p', '-c:v', 'libwebp_anim', '-quality', String(Math.round(quality)), '-loop', '0'];
  }
}

function container(codec: MovieCodec, rate: FrameRate, target: string): string[] {
  if (codec === 'gif' || codec === 'webp') return ['-f', codec];
  if (codec === 'vp9' || codec === 'av1') return ['-f', 'webm'];
  // A clock in which every frame begins at a whole number: the rate stays exact.
  const timescale = rate.numerator * (rate.denominator === 1 ? 1000 : 1);
  return [
    '-video_track_timescale',
    String(timescale),
    '-movflags',
    '+faststart+write_colr',
    '-f',
    /\.mov$/i.test(target) || codec === 'prores' ? 'mov' : 'mp4',
  ];
}
