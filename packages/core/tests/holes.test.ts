import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodeExr, inspectFrameFile, memorySource, type Hole, type PixelWindow } from '../src/index.ts';
import { fixture, tools } from './tools.ts';
import { count, tgaFrame } from './virtual-folder.ts';

const BLOCK = 512;
const [WIDTH, HEIGHT] = [400, 24];

function look(bytes: Uint8Array, name: string) {
  return inspectFrameFile(memorySource(bytes), name, 'full', tools).facts;
}

const holesOf = (bytes: Uint8Array): readonly Hole[] => look(bytes, 'a.0001.exr').holes;

/** A picture without a zero, unpacked; `retouch` gives a pixel other values. */
function plainExr(retouch: (x: number, y: number, channel: string) => number | null = () => null): Uint8Array {
  const window: PixelWindow = [0, 0, WIDTH - 1, HEIGHT - 1];
  const channels = ['R', 'G', 'B'].map((name, c) => ({
    name,
    type: 'half' as const,
    data: Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      return retouch(x, y, name) ?? 0x3501 + ((x * 7 + y * 13 + c * 31) & 0xfe);
    }),
  }));
  return encodeExr({ dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'none', channels, metadata: {} }, tools);
}

function withHole(bytes: Uint8Array, offset: number, length = BLOCK): Uint8Array {
  return bytes.slice().fill(0, offset, offset + length);
}

describe('a block that was never filled', () => {
  const sound = plainExr();
  /** Bytes of a line with the chunk's own eight. */
  const LINE = WIDTH * 6 + 8;
  const blocks = Math.floor(sound.length / BLOCK);

  it('is told with its place, wherever it leaves the lines’ own numbers alone', () => {
    let tried = 0;
    fc.assert(
      fc.property(fc.integer({ min: 2, max: blocks - 3 }), (block) => {
        const offset = block * BLOCK;
        const facts = look(withHole(sound, offset), 'a.0001.exr');
        // One that falls on the number of a line, or its length, makes the file corrupt.
        if (facts.problem === null) {
          tried++;
          expect(facts.holes).toEqual([{ offset, length: BLOCK }]);
        } else expect(facts.problem.code).toBe('corrupt');
      }),
      { numRuns: 200 },
    );
    expect(tried).toBeGreaterThan(50);
  });

  it('is not seen in a sound picture, nor in one with black things in it', () => {
    expect(holesOf(sound)).toEqual([]);
    expect(holesOf(plainExr((x, y) => (Math.hypot(x - 90, (y - 20) * 4) < 60 ? 0 : null)))).toEqual([]);
    // A bar across, one at a side, a channel that is zero throughout.
    expect(holesOf(plainExr((_, y) => (y > 10 && y < 20 ? 0 : null)))).toEqual([]);
    expect(holesOf(plainExr((x) => (x > 100 ? 0 : null)))).toEqual([]);
    expect(holesOf(plainExr((_x, _y, channel) => (channel === 'G' ? 0 : null)))).toEqual([]);
  });

  it('is not made up where zeros end elsewhere than blocks do', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: HEIGHT - 2 }), fc.integer({ min: 0, max: WIDTH - 90 }), fc.integer({ min: 40, max: 85 }), (line, left, length) => {
        const bytes = plainExr((x, y) => (y === line && x >= left && x < left + length ? 0 : null));
        expect(holesOf(bytes)).toEqual([]);
      }),
      { numRuns: 100 },
    );
  });

  it('may lie in one channel only, which the pixels together do not show', () => {
    // A line holds its blue values first, then the green ones; a block that begins among these ends among them.
    const first = sound.length - HEIGHT * LINE;
    const at = Array.from({ length: blocks }, (_, block) => block * BLOCK).find((start) => {
      const within = (start - first) % LINE;
      return start > first + LINE && within > 8 + WIDTH * 2 + 4 && within + BLOCK < 8 + WIDTH * 4;
    })!;
    const facts = look(withHole(sound, at), 'a.0001.exr');
    expect(facts.problem).toBeNull();
    expect(facts.pixels!.emptyRegions).toEqual([]);
    expect(facts.holes).toEqual([{ offset: at, length: BLOCK }]);
  });
});

describe('reference frames whose pixels are not packed, or would not get smaller', () => {
  const files = [
    'tga/rgb24.tga',
    'tga/rgba32.tga',
    'tga/gray8.tga',
    'tga/rgb24_bottom.tga',
    'tiff/rgb16_none.tif',
    'tiff/rgba8_none.tif',
    'tiff/rgb8_planar.tif',
  ]
    .concat(['rgb8', 'rgb10_msb', 'rgb10_lsb', 'rgb10_le_b', 'rgb12_be', 'rgb16', 'rgba10'].map((name) => `dpx/${name}.dpx`))
    .concat([
      'exr/rgba_half_none.exr',
      'exr/window_half_none.exr',
      'exr/z_float_none.exr',
      'exr/id_uint_none.exr',
      'exr/layers_half_none.exr',
      'exr/tiled_half_none.exr',
      'exr/parts_float_none.exr',
      'exr/z_float_zip.exr',
      'exr/parts_float_zip.exr',
    ]);

  it.each(files)('%s: sound without a hole, and with one mostly found', (file) => {
    const bytes = fixture(file);
    expect(look(bytes, file).holes).toEqual([]);
    let [tried, found] = [0, 0];
    for (let at = 2048; at + 2 * BLOCK < bytes.length; at += BLOCK) {
      if (bytes.subarray(at, at + BLOCK).every((byte) => byte === 0)) continue;
      const facts = look(withHole(bytes, at), file);
      tried++;
      if (facts.problem !== null || facts.holes.length > 0 || facts.pixels!.emptyRegions.length > 0) found++;
    }
    expect(tried).toBeGreaterThan(0);
    // The last block of a picture may have nothing behind it that could speak for it.
    expect(found).toBeGreaterThanOrEqual(tried - 1);
  });
});

describe('a shot with holes', () => {
  const [across, down] = [100, 40];
  const brief = { shot: 'orr_010', range: '1001-1012', passes: [{ name: 'beauty', role: 'beauty', pattern: 'orr_010_beauty.####.tga' }] };
  const pathOf = (frame: number) => `orr_010_beauty.${frame}.tga`;

  const picture = (frame: number) =>
    Uint8Array.from({ length: across * down * 3 }, (_, i) => 40 + ((i * 3 + frame * 5) % 90) + (Math.imul(i + frame * 7919, 2654435761) >>> 28));
  const shot = (offsetsOf: (frame: number) => readonly number[]) =>
    Object.fromEntries(
      Array.from({ length: 12 }, (_, i) => 1001 + i).map((frame) => [
        pathOf(frame),
        offsetsOf(frame).reduce((bytes, at) => withHole(bytes, at), tgaFrame(across, down, picture(frame))),
      ]),
    );
  const told = (folder: Record<string, Uint8Array>) => count(folder, brief).findings.map(({ code, frames }) => `${code} ${frames}`);

  it('is sound without', () => expect(told(shot(() => []))).toEqual([]));

  it('has the frame told as one with a region missing, and where in the file', () => {
    const { findings } = count(
      shot((frame) => (frame === 1005 ? [4096] : [])),
      brief,
    );
    expect(findings.map(({ code, frames }) => [code, String(frames)])).toEqual([['missing-region', '1005']]);
    // Of one file the sentence itself says what shows it.
    expect(findings[0].message).toContain('512 bytes are zero from byte 4096 on');
  });

  it('tells nothing of what every frame has at one place', () => expect(told(shot(() => [4096]))).toEqual([]));

  it('tells each frame where different ones are torn at different places', () => {
    expect(told(shot((frame) => (frame === 1005 ? [4096] : frame === 1006 ? [2048, 8192] : [])))).toEqual(['missing-region 1005-1006']);
  });
});
