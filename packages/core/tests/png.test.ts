import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodePng, frameFormats, inspectFrameFile, memorySource, MintError, type DecodedFrame } from '../src/index.ts';
import { fixture, references, tools } from './tools.ts';

const png = frameFormats.find((format) => format.name === 'png')!;

interface Reference {
  file: string;
  width: number;
  height: number;
  rgba01: [number, number, number, number, number, number][];
}

/** A pixel as the reference decoder gives it: red, green, blue, alpha, scaled to 0..1. */
function rgba01(frame: DecodedFrame, x: number, y: number): number[] {
  const value = (...names: string[]) => {
    const plane = frame.planes.find((candidate) => names.includes(candidate.channel));
    if (!plane) return 1;
    return plane.data[plane.offset + (y * plane.width + x) * plane.stride] / (plane.type === 'u16' ? 65535 : 255);
  };
  return [value('R', 'Y'), value('G', 'Y'), value('B', 'Y'), value('A')];
}

describe.each(references<Reference>('png'))('the reference frame $file', ({ file, width, height, rgba01: expected }) => {
  it('decodes to the reference values', () => {
    const { frame, report } = png.open(memorySource(fixture(file))).decode(tools);
    expect([frame.header.width, frame.header.height]).toEqual([width, height]);
    expect(report.trailingBytes).toBe(0);
    for (const [x, y, ...values] of expected) {
      rgba01(frame, x, y).forEach((value, i) => expect(Math.abs(value - values[i])).toBeLessThan(1e-6));
    }
  });

  it('is sound at both levels', () => {
    for (const level of ['headers', 'full'] as const) {
      expect(inspectFrameFile(memorySource(fixture(file)), file, level, tools).facts.problem).toBeNull();
    }
  });

  it('is truncated at whatever length it is cut', () => {
    const bytes = fixture(file);
    for (let length = 1; length < bytes.length; length += 1 + Math.floor(bytes.length / 300)) {
      for (const level of ['headers', 'full'] as const) {
        const { problem } = inspectFrameFile(memorySource(bytes.subarray(0, length)), file, level, tools).facts;
        expect(problem?.code, `cut to ${length} at level ${level}`).toBe('truncated');
      }
    }
  });

  it('is damaged wherever a byte is flipped', () => {
    const bytes = fixture(file);
    const sound: number[] = [];
    for (let at = 0; at < bytes.length; at += 1 + Math.floor(bytes.length / 400)) {
      const flipped = bytes.slice();
      flipped[at] ^= 0x55;
      if (inspectFrameFile(memorySource(flipped), file, 'full', tools).facts.problem === null) sound.push(at);
    }
    expect(sound).toEqual([]);
  });
});

describe('PNG', () => {
  it('tells bytes behind the end from a whole file', () => {
    const bytes = fixture('png/rgb8.png');
    const longer = new Uint8Array(bytes.length + 7);
    longer.set(bytes);
    expect(png.open(memorySource(longer)).check().trailingBytes).toBe(7);
    expect(png.open(memorySource(longer)).decode(tools).report.trailingBytes).toBe(7);
  });

  it('neither allocates nor inflates what a hostile header promises', () => {
    const bytes = fixture('png/rgb8.png').slice();
    const view = new DataView(bytes.buffer);
    view.setUint32(16, 0x7fffffff);
    view.setUint32(20, 0x7fffffff);
    view.setUint32(29, tools.crc32(bytes.subarray(12, 29)));
    const { problem } = inspectFrameFile(memorySource(bytes), 'a.png', 'full', tools).facts;
    expect(problem).toMatchObject({ code: 'corrupt', message: expect.stringContaining('more than the data can hold') });
  });

  it('stops a small file that inflates without end', () => {
    const bomb = encodePng(
      { width: 4, height: 4, samplesPerPixel: 1, data: new Uint8Array(16) },
      { ...tools, deflate: () => tools.deflate(new Uint8Array(50_000_000)) },
    );
    const { problem } = inspectFrameFile(memorySource(bomb), 'a.png', 'full', tools).facts;
    expect(problem?.code).toBe('corrupt');
  });

  it('reads back what it writes, in every sample layout', () => {
    const picture = fc.record({
      width: fc.integer({ min: 1, max: 20 }),
      height: fc.integer({ min: 1, max: 12 }),
      samplesPerPixel: fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const),
      wide: fc.boolean(),
      seed: fc.integer(),
    });
    fc.assert(
      fc.property(picture, ({ width, height, samplesPerPixel, wide, seed }) => {
        const count = width * height * samplesPerPixel;
        const data = wide ? new Uint16Array(count) : new Uint8Array(count);
        for (let i = 0; i < count; i++) data[i] = Math.imul(seed + i, 2654435761) >>> 12;
        const { frame } = png.open(memorySource(encodePng({ width, height, samplesPerPixel, data }, tools))).decode(tools);
        expect(frame.planes).toHaveLength(samplesPerPixel);
        expect([...frame.planes[0].data]).toEqual([...data]);
      }),
    );
  });

  it('throws nothing but our own errors on bytes that nobody wrote', () => {
    const start = fixture('png/rgb8_interlaced.png');
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(start.length - 1), fc.nat(255)), { maxLength: 8 }), fc.nat(start.length), (changes, length) => {
        const bytes = start.slice(0, length);
        for (const [at, value] of changes) if (at < length) bytes[at] = value;
        for (const action of [
          () => png.open(memorySource(bytes)).header,
          () => png.open(memorySource(bytes)).check(),
          () => png.open(memorySource(bytes)).decode(tools),
        ]) {
          try {
            action();
          } catch (thrown) {
            expect(thrown).toBeInstanceOf(MintError);
          }
        }
      }),
      { numRuns: 500 },
    );
  });
});

describe('notes in a PNG', () => {
  const picture = { width: 2, height: 1, samplesPerPixel: 1, data: Uint8Array.of(1, 2) } as const;
  const metadataOf = (bytes: Uint8Array) => inspectFrameFile(memorySource(bytes), 'a.png', 'full', tools).facts.header?.metadata;
  /** Puts a chunk before the pixels, which follow the 33 bytes of signature and IHDR. */
  const withChunk = (type: string, data: Uint8Array) => {
    const bytes = encodePng(picture, tools);
    const chunk = new Uint8Array(12 + data.length);
    new DataView(chunk.buffer).setUint32(0, data.length);
    chunk.set(
      [...type].map((letter) => letter.charCodeAt(0)),
      4,
    );
    chunk.set(data, 8);
    new DataView(chunk.buffer).setUint32(8 + data.length, tools.crc32(chunk.subarray(4, 8 + data.length)));
    return Uint8Array.of(...bytes.subarray(0, 33), ...chunk, ...bytes.subarray(33));
  };
  const text = (value: string) => new TextEncoder().encode(value);

  it('are read as they were written', () => {
    expect(metadataOf(encodePng({ ...picture, notes: { samples: '64', camera: 'kéeper' } }, tools))).toEqual({ samples: '64', camera: 'kéeper' });
  });
  it('may be international text', () => {
    expect(metadataOf(withChunk('iTXt', text('camera\0\0\0en\0Kamera\0Wärter')))).toEqual({ camera: 'Wärter' });
  });
  it.each([
    ['without an end of the keyword', 'tEXt', 'samples64'],
    ['without a keyword', 'tEXt', '\0sixty-four'],
    ['packed', 'iTXt', 'camera\0\u0001\0\0\0x'],
    ['broken off', 'iTXt', 'camera\0\0\0en'],
  ])('are passed over %s', (_what, type, content) => {
    expect(metadataOf(withChunk(type, text(content)))).toEqual({});
  });
});
