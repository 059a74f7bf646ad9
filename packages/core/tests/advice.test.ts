import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { adviseBrief, BriefError, parseBrief, planDisk, workOutOrder, type AdviceContext } from '../src/index.ts';

const nowhere: AdviceContext = { folder: null, freeBytes: null, plannedBytes: null };
const beauty = {
  name: 'beauty',
  role: 'beauty',
  pattern: 'beauty/orr_010_beauty.####.exr',
  channels: ['R', 'G', 'B', 'A'],
  depth: 'half',
  compression: ['zip'],
  alpha: 'premultiplied',
};
const depth = { name: 'depth', role: 'depth', pattern: 'depth/orr_010_depth.####.exr', channels: ['Z'], depth: 'float' };
/** A brief that nothing can be said against. */
const good = { shot: 'orr_010', range: '1001-1096', fps: '24', resolution: [640, 360], passes: [beauty, depth] };

/** A test frame whose softest gradients go over two of 256 code values. */
const soft = { sampling: { gradients: { pixels: 32, span: 2 / 255, noise: 0.0002, share: 0.3 } } };
const advise = (change: object, context: Partial<AdviceContext> = {}) =>
  adviseBrief(workOutOrder(parseBrief({ ...good, ...change })), { ...nowhere, ...context });
const pass = (change: object) => ({ passes: [{ ...beauty, ...change }, depth] });
const data = (change: object) => ({ passes: [beauty, { ...depth, ...change }] });

describe('advice on a brief', () => {
  it('is silent where nothing is wrong', () => {
    expect(advise({})).toEqual([]);
    expect(advise({ duration: '4 s', loop: true, handles: [0, 0], scale: 100, sound: { file: 'a.wav', samples: 192_000, sampleRate: 48_000 } })).toEqual([]);
    expect(advise({ range: '1001-1112', handles: [8, 8], duration: '4 s' })).toEqual([]);
    // A turn of 96 frames is rendered as 95 of them; a range with a step lasts as long as what it covers.
    expect(advise({ range: '1001-1095', loop: true, duration: '96' })).toEqual([]);
    expect(advise({ range: '1001-1095', loop: true })).toEqual([]);
    expect(advise({ range: '1001-1096x5', duration: '4 s' })).toEqual([]);
    // Confirmed, the range of a new scene is one like any other.
    expect(advise({ range: '1-250', fps: '25', duration: '10 s' })).toEqual([]);
    expect(advise({ range: '1-250', fps: '25', sound: { file: 'a.wav', samples: 480_000, sampleRate: 48_000 } })).toEqual([]);
    // Deflate is called zip by one format and deflate by another.
    expect(advise(pass({ pattern: 'b.####.png', depth: '8', alpha: 'straight', compression: ['zip'] }))).toEqual([]);
  });

  it.each<[object, string, string, RegExp]>([
    [{ range: '1001-1095' }, 'range-short', 'range', /1095 - 1001 \+ 1 = 95 = 4 x 24 - 1/],
    [{ range: '0-96' }, 'range-long', 'range', /96 - 0 \+ 1 = 97 = 4 x 24 \+ 1/],
    [{ range: '1001-1095', duration: '4 s' }, 'range-short', 'range', /= 95; 4 s = 96 frames/],
    [{ range: '1001-1097', duration: '00:00:04:00' }, 'range-long', 'range', /= 97; 00:00:04:00 = 96 frames/],
    [{ range: '1001-1050', duration: '4 s' }, 'duration-mismatch', 'range', /= 50; 4 s = 96 frames/],
    [{ range: '1001-1095', duration: '96' }, 'range-short', 'range', /= 95; 96 = 96 frames/],
    [{ range: '1-250' }, 'default-range', 'range', /250 frames are 10\.417 s/],
    [{ range: '0-250', duration: '4 s' }, 'default-range', 'range', /what a new scene begins with/],
    [{ range: '1-250', sound: { file: 'a.wav', samples: 192_000, sampleRate: 48_000 } }, 'default-range', 'range', /250/],
    [pass({ pattern: 'b.####.png', depth: 'half', alpha: undefined, compression: undefined }), 'format-limit', 'passes.0.depth', /it holds 8, 16/],
    [pass({ pattern: 'b.####.tif', compression: ['dwaa'] }), 'format-limit', 'passes.0.compression', /none, packbits, lzw, zip/],
    [pass({ pattern: 'b.####.png', depth: '8', compression: undefined }), 'format-limit', 'passes.0.alpha', /premultiplied alpha is ordered/],
    [
      {
        ...pass({ depth: '16', pattern: 'b.####.tif', compression: undefined }),
        sampling: { gradients: { pixels: 32, span: 2 / 255, noise: 0.01, share: 0.3 } },
      },
      'heavy-format',
      'passes.0.depth',
      /8 bits a sample = 88 MB before packing/,
    ],
    [{ duration: '4.01 s' }, 'duration-mismatch', 'duration', /96 frames last 4 s/],
    [{ range: '1001-1097', loop: true }, 'loop-repeat', 'range', /97 = 4 x 24 \+ 1/],
    [{ range: '1001-1097', loop: true, duration: '4 s' }, 'loop-repeat', 'range', /97; 4 s = 96 frames/],
    [{ range: '993-1105', handles: [8, 8] }, 'range-long', 'range', /1097 - 1001 \+ 1 = 97/],
    [
      { sound: { file: 'a.wav', samples: 240_000, sampleRate: 48_000 } },
      'duration-mismatch',
      'sound',
      /240000 \/ 48000 Hz = 5\.000 s = 120\.0 frames; the cut has 96/,
    ],
    [{ sound: { file: 'a.wav', samples: 96_000, sampleRate: 48_000 } }, 'duration-mismatch', 'sound', /48\.0 frames/],
    [pass({ pattern: 'beauty.###.exr' }), 'padding-overflow', 'passes.0.pattern', /1001 has 4 digits; beauty\.###\.exr has room for 3/],
    [{ scale: 50 }, 'scaled-render', 'scale', /320 x 180 of 640 x 360/],
    [{ crop: [0, 0, 320, 360] }, 'scaled-render', 'crop', /320 x 360 of 640 x 360: 50 % of the pixels/],
    [data({ pattern: beauty.pattern, channels: undefined }), 'name-collision', 'passes.1.pattern', /both name beauty\/orr_010_beauty\.1001\.exr/],
    [data({ pattern: 'beauty/orr_010_beauty.##.exr' }), 'name-collision', 'passes.1.pattern', /both name beauty\/orr_010_beauty\.1001\.exr/],
    [data({ pattern: beauty.pattern.toUpperCase() }), 'name-collision', 'passes.1.pattern', /both name/],
    [pass({ pattern: 'beauty.####.jpg', alpha: 'none', compression: undefined }), 'lossy-format', 'passes.0.pattern', /256 code values/],
    [data({ pattern: 'z.####.jpg', depth: undefined }), 'lossy-format', 'passes.1.pattern', /none of them exact/],
    [data({ compression: ['dwaa'] }), 'lossy-format', 'passes.1.compression', /none, rle, zips, zip, piz/],
    [pass({ depth: 'float' }), 'heavy-format', 'passes.0.depth', /640 x 360 x 4 channels x 2 bytes x 96 frames = 177 MB/],
    [data({ pattern: 'z.####.png', depth: '8' }), 'role-depth', 'passes.1.depth', /2\^8 = 256 values/],
    [pass({ depth: '16', pattern: 'b.####.png', compression: undefined }), 'heavy-format', 'passes.0.depth', /the highlights lost/],
    [
      { passes: [beauty, { ...depth, role: 'matte', depth: '16', pattern: 'm.####.png', channels: ['Y'] }] },
      'heavy-format',
      'passes.1.depth',
      /640 x 360 x 1 byte x 96 frames = 22 MB/,
    ],
    [
      { ...pass({ depth: '8', pattern: 'b.####.png', compression: undefined }), ...soft },
      'banding',
      'passes.0.depth',
      /go over 2\.0 of 256 code values: a step every 16 pixels/,
    ],
    [{ ...pass({ pattern: 'b.####.jpg', alpha: 'none', compression: undefined }), ...soft }, 'lossy-format', 'passes.0.pattern', /2\.0 of 256 code values/],
    [pass({ channels: ['R', 'G', 'B'], alpha: undefined }), 'alpha-lacking', 'passes.0.alpha', /channels R G B/],
    [pass({ channels: ['R', 'G', 'B'] }), 'alpha-lacking', 'passes.0.channels', /channels R G B/],
    [pass({ pattern: 'b.####.jpg' }), 'alpha-lacking', 'passes.0.alpha', /premultiplied alpha is ordered/],
    [pass({ pattern: 'be\u00e4uty/b.####.exr' }), 'unsafe-name', 'passes.0.pattern', /outside ASCII/],
    [pass({ pattern: 'aux/b.####.exr' }), 'unsafe-name', 'passes.0.pattern', /Windows/],
  ])('%j is told as %s at %s', (change, code, field, sum) => {
    const found = advise(change).filter((one) => one.code === code);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ field, sum: expect.stringMatching(sum) });
    expect(found[0].message.length).toBeGreaterThan(10);
  });

  it.each([
    ['/tmp/renders', true],
    ['/home/ines/Downloads/orr_010', true],
    ['/mnt/Cloud/orr_010', true],
    ['/mnt/renders/template/orr_010', false],
    ['/srv/temperature', false],
  ])('takes %s for a folder that is cleared or copied: %s', (folder, told) => {
    expect(advise({}, { folder }).some((one) => one.code === 'temporary-folder')).toBe(told);
  });

  it('says how much is lacking on a disk that is too small', () => {
    expect(advise({}, { freeBytes: 2e9, plannedBytes: 5e9 })).toEqual([
      expect.objectContaining({ code: 'disk-short', sum: '5.0 GB are needed, 2.0 GB are free: 3.0 GB are lacking' }),
    ]);
    expect(advise({}, { freeBytes: 5e9, plannedBytes: 2e9 })).toEqual([]);
  });

  it('puts what stops the render first', () => {
    const found = advise({
      scale: 50,
      passes: [
        { ...beauty, depth: 'float' },
        { ...beauty, name: 'again' },
      ],
    });
    expect(found[0].code).toBe('name-collision');
    expect(found.at(-1)?.severity).toBe('note');
  });

  it('lets layers share a file', () => {
    expect(advise(data({ pattern: beauty.pattern, channels: ['depth.Z'] })).some((one) => one.code === 'name-collision')).toBe(false);
  });

  it('speaks of one frame only where one frame is lost or won', () => {
    fc.assert(
      fc.property(fc.integer({ min: 48, max: 2000 }), fc.constantFrom('24', '25', '30'), (count, fps) => {
        const codes = advise({ range: `1-${count}`, fps, passes: [depth] }).map((one) => one.code);
        const beside = count % Number(fps);
        expect(codes.includes('range-long')).toBe(beside === 1);
        expect(codes.includes('range-short')).toBe(beside === Number(fps) - 1);
      }),
    );
  });
});

describe('entries that do not fit together', () => {
  it.each<[object, string]>([
    [{ duration: 'x' }, 'duration'],
    [{ duration: '4 s', fps: undefined }, 'duration'],
    [{ handles: [48, 48] }, 'handles'],
    [{ handles: [-1, 0] }, 'handles.0'],
    [{ crop: [600, 0, 100, 100] }, 'crop'],
    [{ scale: 0 }, 'scale'],
    [{ test: '10-1' }, 'test'],
    [{ range: 'x', duration: '4 s', handles: [1, 1] }, 'range'],
    [{ fps: '0', duration: '4 s' }, 'fps'],
  ])('are told at the field: %j', (change, field) => {
    try {
      parseBrief({ ...good, ...change });
      expect.unreachable();
    } catch (thrown) {
      expect(thrown).toBeInstanceOf(BriefError);
      expect(Object.keys((thrown as BriefError).fields)).toEqual([field]);
    }
  });
});

describe('the disk that an order takes', () => {
  const plan = (change: object, knownBytes: (name: string) => number | null = () => null) =>
    planDisk(workOutOrder(parseBrief({ ...good, ...change })), knownBytes);

  it('is estimated from size, channels, depth and format, and says so', () => {
    // 640 x 360 x 4 channels x 2 bytes x 0.6, and 640 x 360 x 1 x 4 x 0.6; 96 frames each.
    expect(plan({})).toMatchObject({ files: 192, known: false, bytes: Math.round(640 * 360 * 8 * 0.6 * 96) + Math.round(640 * 360 * 4 * 0.6 * 96) });
  });

  it('is measured where frames are there', () => {
    expect(plan({}, () => 1000)).toMatchObject({ bytes: 192_000, known: true });
    expect(plan({}, (name) => (name === 'beauty' ? 1000 : null))).toMatchObject({
      known: false,
      passes: [{ known: true, bytes: 96_000 }, { known: false }],
    });
  });

  it('counts the files of layers once, and their bytes as part of the file', () => {
    const layered = { passes: [beauty, { ...depth, pattern: beauty.pattern, channels: ['depth.Z'] }] };
    expect(plan(layered)).toMatchObject({ files: 96, passes: [{ files: 96 }, { files: 0 }] });
    expect(plan(layered, () => 1000)).toMatchObject({ bytes: 96_000, known: true });
  });

  it('cannot be said without a resolution', () => {
    expect(plan({ resolution: undefined })).toBeNull();
  });
});
