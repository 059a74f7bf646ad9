import { describe, expect, it } from 'vitest';
import { frameFormats, halfToFloat, inspectFrameFile, memorySource, type FileFacts, type Plane } from '../src/index.ts';
import { fixture, references, tools } from './tools.ts';

/** Files that others wrote, of kinds that are rare and were misjudged, with what decoders that are not ours read of them. */
interface Reference {
  file: string;
  writer: string;
  /** Whose readings these are. */
  reader: string;
  verdict: 'sound' | 'not-examined' | 'wrong-format';
  channels?: string[];
  /** x, y, and a value from 0 to 1 for each channel. */
  readings?: [number, number, ...number[]][];
}

const all = references<Reference>('foreign');
/** Readings are rounded to six digits; halves and code values of 10 bits have fewer. */
const TOLERANCE: Record<string, number> = { 'grey-10-bits.dpx': 2e-5 };

function look(bytes: Uint8Array, file: string, level: 'headers' | 'full'): FileFacts {
  return inspectFrameFile(memorySource(bytes), file, level, tools).facts;
}

function verdictOf({ problem, notExamined }: FileFacts): string {
  return problem?.code ?? (notExamined === null ? 'sound' : 'not-examined');
}

function valueAt(plane: Plane, x: number, y: number): number {
  const stored = plane.data[plane.offset + (y * plane.width + x) * plane.stride];
  if (plane.type === 'half') return halfToFloat(stored);
  return plane.type === 'u8' ? stored / 255 : plane.type === 'u16' ? stored / 65535 : stored;
}

function planesOf(file: string, bytes = fixture(`foreign/${file}`)): readonly Plane[] {
  const format = frameFormats.find(({ extensions }) => extensions.includes(file.slice(file.lastIndexOf('.') + 1)))!;
  return format.open(memorySource(bytes)).decode(tools).frame.planes;
}

describe.each(all)('$file, written by $writer', ({ file, verdict, channels, readings }) => {
  it(`is ${verdict}`, () => {
    const facts = look(fixture(`foreign/${file}`), file, 'full');
    expect(verdictOf(facts), facts.problem?.message ?? facts.notExamined ?? '').toBe(verdict);
    expect(facts.trailingBytes).toBe(0);
    expect(look(fixture(`foreign/${file}`), file, 'headers').problem?.code).toBe(verdict === 'wrong-format' ? verdict : undefined);
  });

  it.runIf(readings)('decodes to what others read', () => {
    const planes = planesOf(file);
    for (const [x, y, ...values] of readings!) {
      channels!.forEach((name, i) => {
        const plane = planes.find(({ channel }) => channel === name)!;
        expect(Math.abs(valueAt(plane, x, y) - values[i]), `${name} at ${x}, ${y}`).toBeLessThanOrEqual(TOLERANCE[file] ?? 1e-6);
      });
    }
  });
});

describe('a file that others wrote', () => {
  it('says what its header leaves out', () => {
    const { header } = look(fixture('foreign/without-pixel-aspect.exr'), 'a.exr', 'headers');
    expect(header).toMatchObject({ pixelAspect: 1, assumed: [expect.stringContaining('square pixels')] });
  });

  it('is damaged where a page behind the first is', () => {
    const bytes = fixture('foreign/three-pages-lzw.tif');
    const places = damagedPlaces(bytes);
    expect(places.length).toBeGreaterThan(20);
    for (const { facts } of places) expect(facts.problem?.message).toMatch(/^Page [23]: /);
    // The first page is whole: its own bytes are not touched.
    expect(look(bytes, 'a.tif', 'full').problem).toBeNull();
  });

  it('is called JPEG-LS also where notes stand before its picture', () => {
    expect(look(fixture('foreign/jpeg-ls.jpg'), 'a.jpg', 'full').problem).toEqual({
      code: 'wrong-format',
      message: 'The name says jpeg, the content is jpeg-ls.',
    });
  });
});

/** Turns bytes behind the first page over, one at a time, and keeps the tries that were found. */
function damagedPlaces(bytes: Uint8Array): { at: number; facts: FileFacts }[] {
  const found = [];
  for (let at = Math.floor(bytes.length / 2); at < bytes.length; at += 7) {
    const damaged = Uint8Array.from(bytes);
    damaged[at] ^= 0xff;
    const facts = look(damaged, 'a.tif', 'full');
    if (facts.problem) found.push({ at, facts });
  }
  return found;
}
