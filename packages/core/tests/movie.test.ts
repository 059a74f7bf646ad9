import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  burnInLines,
  encoderArguments,
  judgeMovie,
  meanDifference,
  movieSettingsSchema,
  movieSize,
  parseBrief,
  parseFrameRange,
  parseFrameRate,
  planMovie,
  probedSchema,
  readColour,
  seeColour,
  SeenByTable,
  seePicture,
  workOutOrder,
  type PictureInfo,
} from '../src/index.ts';

const order = (more: object = {}) =>
  workOutOrder(
    parseBrief({ shot: 'orr_010', range: '1001-1006', fps: '23.976', version: 'v003', passes: [{ name: 'beauty', pattern: 'b.####.exr' }], ...more }),
  );
const settings = (more: object = {}) => movieSettingsSchema.parse({ codec: 'h264', ...more });
const there = (frame: number) => (frame === 1003 ? null : `b.${frame}.exr`);

describe('the pictures of a movie', () => {
  it('are all ordered frames, those without a file as slates, at the exact rate', () => {
    const plan = planMovie(order(), 0, null, there);
    expect(plan.pictures.map(({ frame }) => frame)).toEqual([1001, 1002, 1003, 1004, 1005, 1006]);
    expect(String(plan.slates)).toBe('1003');
    expect(plan.rate).toEqual({ numerator: 24000, denominator: 1001 });
    expect(plan.seconds).toBeCloseTo((6 * 1001) / 24000, 12);
    expect(plan.pictures[5]!.timecode).toBe('00:00:00:05');
  });

  it('keep their frame and time in the shot where only some are shown, and say where the sound begins', () => {
    const plan = planMovie(order({ range: '1001-1100x2', fps: '25' }), 0, parseFrameRange('1051-1053'), there);
    expect(plan.pictures.map(({ frame, timecode }) => `${frame} ${timecode}`)).toEqual(['1051 00:00:02:00', '1053 00:00:02:02']);
    expect(plan.startsAt).toBe(2);
    expect(() => planMovie(order(), 0, parseFrameRange('2000'), there)).toThrow('beauty has none of the frames 2000');
  });

  it('bear what somebody wants to read in them', () => {
    const [picture] = planMovie(order(), 0, null, there).pictures;
    expect(burnInLines(order(), 'beauty', settings({ burnIn: true, note: 'lamps' }), picture!)).toEqual([
      'lamps',
      'orr_010  v003  beauty',
      '1001  00:00:00:00',
    ]);
    expect(burnInLines(order(), 'beauty', settings(), picture!)).toEqual(['', '', '']);
  });
});

describe('the size of a movie', () => {
  it('has square pixels, and even sides where the codec needs them', () => {
    expect(movieSize(settings(), [639, 359], 1, false)).toEqual([640, 360]);
    expect(movieSize(settings({ codec: 'gif' }), [639, 359], 1, false)).toEqual([639, 359]);
    expect(movieSize(settings(), [1920, 1080], 2, false)).toEqual([3840, 1080]);
    expect(movieSize(settings(), [1920, 1080], 0.5, false)).toEqual([1920, 2160]);
    expect(movieSize(settings(), [640, 360], 1, true)).toEqual([1280, 360]);
    expect(movieSize(settings({ arrange: 'split' }), [640, 360], 1, true)).toEqual([640, 360]);
  });
});

describe('what an encoder is told', () => {
  const told = (more: object, sound: { file: string; from: number } | null = null, target = 'x.mp4') =>
    encoderArguments({ settings: settings(more), rate: parseFrameRate('23.976'), width: 640, height: 360, seconds: 1.001, sound, target }).join(' ');

  it('has the rate as a fraction, a clock that holds it, and the colours of Rec. 709 by name', () => {
    expect(told({})).toMatch(/-framerate 24000\/1001 .*-crf 17.6 .*-color_primaries bt709 -color_trc bt709 -colorspace bt709 .*-video_track_timescale 24000/);
    for (const codec of ['hevc', 'vp9', 'av1', 'prores']) expect(told({ codec })).toMatch(/out_color_matrix=bt709.*-colorspace bt709/);
  });

  it('takes a rate of bits, and every frame by itself, where that is wanted', () => {
    expect(told({ bitrate: 20_000_000 })).toMatch(/-b:v 20000000 -minrate 20000000 -maxrate 20000000/);
    expect(told({ everyFrameKey: true })).toContain('-g 1 ');
    expect(told({})).toContain('-g 48 ');
  });

  it('cuts the sound where the pictures end, and leaves it out where the file has no place for it', () => {
    expect(told({}, { file: 'a.wav', from: 2.5 })).toMatch(/-ss 2.500000 -i a.wav .*apad,atrim=duration=1.001000/);
    expect(told({ codec: 'gif' }, { file: 'a.wav', from: 0 }, 'x.gif')).toMatch(/-an.*-f gif/);
  });

  it('gives better quality to whoever asks for more', () => {
    const crf = (codec: string, quality: number) => Number(/-crf (\S+)/.exec(told({ codec, quality }))![1]);
    for (const codec of ['h264', 'hevc', 'vp9', 'av1'])
      fc.assert(
        fc.property(fc.integer({ min: 0, max: 99 }), (quality) => {
          expect(crf(codec, quality)).toBeGreaterThanOrEqual(crf(codec, quality + 1));
          expect(crf(codec, quality)).toBeLessThanOrEqual(codec === 'h264' || codec === 'hevc' ? 51 : 63);
        }),
      );
  });
});

describe('a movie that is read back', () => {
  const expected = { settings: settings(), frames: 24, rate: parseFrameRate('24'), width: 640, height: 360 };
  const stream = {
    codec_name: 'h264',
    width: 640,
    height: 360,
    r_frame_rate: '24/1',
    nb_read_frames: '24',
    color_space: 'bt709',
    color_primaries: 'bt709',
    color_transfer: 'bt709',
  };
  const judge = (more: object, differences = [1, 2], duration = '1.000000') =>
    judgeMovie(probedSchema.parse({ streams: [{ ...stream, ...more }], format: { duration } }), expected, differences);

  it('is right when all of it is', () => {
    expect(judge({})).toEqual([]);
  });

  it.each([
    ['a frame too few', { nb_read_frames: '23' }, /frames of 23 where 24/],
    ['another size', { width: 638 }, /638 x 360/],
    ['another rate', { r_frame_rate: '24000/1001' }, /rate of 24000\/1001/],
    ['no colour tag', { color_space: undefined }, /colour tag of none/],
  ])('is told for %s', (_, more, words) => {
    expect(judge(more).join()).toMatch(words);
  });

  it('is told for another length and for other pictures', () => {
    expect(judge({}, [1, 2], '1.2').join()).toMatch(/length of 1.2 s where 1.000 s/);
    expect(judge({}, [1, 90]).join()).toMatch(/last picture is another: 90.0 of 255/);
    const picture = (...greys: number[]) => Uint8Array.from(greys.flatMap((grey) => [grey, grey, grey]));
    expect(meanDifference(picture(0, 10), picture(2, 14), 2)).toBe(3);
    // What cancels out within a block is what packing does.
    expect(meanDifference(picture(0, 10), picture(10, 0), 2)).toBe(0);
    expect(meanDifference(picture(0), picture(2, 14), 1)).toBe(255);
  });
});

describe('a picture as a movie shows it', () => {
  const look = { exposure: 0.5, gamma: 1, transform: 'srgb' } as const;
  const info = (more: Partial<PictureInfo> = {}): PictureInfo => ({
    ...{ format: 'exr', type: 'float', channels: ['R', 'G', 'B'], all: ['R', 'G', 'B'], left: 0, top: 0, width: 2, height: 1, reduce: 1, full: [2, 1] },
    ...{ dataWindow: [0, 0, 1, 0], displayWindow: [0, 0, 1, 0], pixelAspect: 1, alphaKind: null, damage: [], problem: '' },
    ...more,
  });
  const plain = { reading: 'colour', range: [0, 1], straight: false, behind: null } as const;

  it('is what the viewer works out of the same light', () => {
    fc.assert(
      fc.property(fc.array(fc.float({ min: 0, max: 4, noNaN: true }), { minLength: 6, maxLength: 6 }), (values) => {
        const { data } = seePicture({ info: info(), samples: Float32Array.from(values) }, plain, new SeenByTable(look));
        for (const pixel of [0, 1]) {
          const seen = seeColour(values.slice(pixel * 3, pixel * 3 + 3) as [number, number, number], look);
          seen.forEach((value, c) => expect(Math.abs(data[pixel * 3 + c]! - value * 255)).toBeLessThan(1.5));
        }
      }),
    );
  });

  it('lies in its display window, over what lies behind', () => {
    const windowed = info({ dataWindow: [1, 1, 2, 1], displayWindow: [0, 0, 2, 2] });
    const { data, width, height } = seePicture(
      { info: windowed, samples: Float32Array.of(1, 1, 1, 0, 0, 0) },
      { ...plain, behind: [1, 0, 0] },
      new SeenByTable({ ...look, exposure: 0 }),
    );
    expect([width, height]).toEqual([3, 3]);
    expect([...data.subarray(9, 18)]).toEqual([255, 0, 0, 255, 255, 255, 0, 0, 0]);
  });

  it('shows distances as grey and signs around it', () => {
    const table = new SeenByTable(look);
    const grey = seePicture({ info: info({ channels: ['Z'] }), samples: Float32Array.of(2, 4) }, { ...plain, reading: 'range', range: [2, 4] }, table);
    expect([...grey.data]).toEqual([0, 0, 0, 255, 255, 255]);
    const signs = seePicture(
      { info: info({ channels: ['X', 'Y', 'Z'] }), samples: Float32Array.of(-1, 0, 1, 1, 0, -1) },
      { ...plain, reading: 'signs', range: [-1, 1] },
      table,
    );
    expect([...signs.data]).toEqual([0, 128, 255, 255, 128, 0]);
  });
});

describe('a colour', () => {
  it('is read by name or by its six digits', () => {
    expect(readColour('grey')).toEqual([119, 119, 119]);
    expect(readColour('#6ee7b7')).toEqual([110, 231, 183]);
    for (const wrong of ['', 'mauve-ish', '#12345', '#gggggg']) expect(readColour(wrong)).toBe(null);
  });
});
