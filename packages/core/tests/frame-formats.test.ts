import { describe, expect, it } from 'vitest';
import { frameFormats, halfToFloat, inspectFrameFile, memorySource, type DecodedFrame, type FileFacts, type Plane } from '../src/index.ts';
import { fixture, references, tools } from './tools.ts';

interface Reference {
  file: string;
  width: number;
  height: number;
  rgba01: [number, number, number, number, number, number][];
}

/** Decoded values may differ by this: what the readings are rounded to, and half a step of 16 bits. */
const TOLERANCE: Record<string, number> = { png: 1e-5, tiff: 1e-5, jpeg: 1e-5, tga: 1e-5, dpx: 4e-5 };

/** A reading of 8 bits that went through another scale: 0 reads as 0.0002 there, 0.5176 as 0.5156. */
const COARSE_READINGS: Record<string, number> = { 'dpx/rgb8.dpx': 4e-3 };

const all = Object.keys(TOLERANCE).flatMap((format) => references<Reference>(format).map((reference) => ({ ...reference, format })));

function scaled(plane: Plane, x: number, y: number): number {
  const stored = plane.data[plane.offset + (y * plane.width + x) * plane.stride];
  if (plane.type === 'half') return halfToFloat(stored);
  return plane.type === 'u8' ? stored / 255 : plane.type === 'u16' ? stored / 65535 : stored;
}

/** A pixel as red, green, blue and alpha, whatever the file calls them. */
function rgba(frame: DecodedFrame, x: number, y: number): number[] {
  const value = (name: string) => {
    const plane = frame.planes.find((candidate) => candidate.channel === name);
    return plane ? scaled(plane, x, y) : null;
  };
  return ['R', 'G', 'B', 'A'].map((name) => value(name) ?? (name === 'A' ? 1 : value('Y')!));
}

function look(bytes: Uint8Array, file: string, level: 'headers' | 'full'): FileFacts {
  return inspectFrameFile(memorySource(bytes), file, level, tools).facts;
}

describe.each(all)('the reference frame $file', ({ file, format, width, height, rgba01 }) => {
  it('is sound at both levels', () => {
    for (const level of ['headers', 'full'] as const) {
      const facts = look(fixture(file), file, level);
      expect(facts).toMatchObject({ problem: null, trailingBytes: 0, notExamined: null, header: { format, width, height } });
    }
  });

  it('decodes to the reference values', () => {
    const { frame } = frameFormats
      .find(({ name }) => name === format)!
      .open(memorySource(fixture(file)))
      .decode(tools);
    const tolerance = COARSE_READINGS[file] ?? TOLERANCE[format];
    for (const [x, y, ...expected] of rgba01) {
      // The readings of TGA count rows as they are stored; these files store the bottom row first.
      const row = format === 'tga' ? height - 1 - y : y;
      rgba(frame, x, row).forEach((value, i) => expect(Math.abs(value - expected[i]), `${'RGBA'[i]} at ${x}, ${y}`).toBeLessThanOrEqual(tolerance));
    }
  });

  it('is truncated at whatever length it is cut', () => {
    const bytes = fixture(file);
    const step = 1 + Math.floor(bytes.length / 200);
    // The first bytes of a TGA are zeros, which by themselves are no cut.
    for (let length = 3; length < bytes.length; length += step) {
      for (const level of ['headers', 'full'] as const) {
        expect(look(bytes.subarray(0, length), file, level).problem?.code, `cut to ${length} at level ${level}`).toBe('truncated');
      }
    }
  });

  it('says how many bytes stand behind the picture', () => {
    const bytes = fixture(file);
    const longer = new Uint8Array(bytes.length + 100);
    longer.set(bytes);
    longer.fill(7, bytes.length);
    for (const level of ['headers', 'full'] as const) expect(look(longer, file, level)).toMatchObject({ problem: null, trailingBytes: 100 });
  });

  it('is the wrong format under another name', () => {
    const other = format === 'exr' ? 'a.png' : 'a.exr';
    expect(look(fixture(file), other, 'headers').problem?.code).toBe(format === 'tga' ? 'corrupt' : 'wrong-format');
  });
});
