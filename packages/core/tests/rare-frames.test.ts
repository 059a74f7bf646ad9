import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inspectFrameFile, memorySource } from '../src/index.ts';
import { fixture, tools } from './tools.ts';
import { be32, decode, le16, le32, valuesOf } from './by-hand.ts';

describe('TGA', () => {
  const head = (type: number, width: number, height: number, bits: number, descriptor: number, palette: number[] = [0, 0, 0, 0, 0]) => [
    0,
    palette[2] || palette[3] ? 1 : 0,
    type,
    ...palette,
    ...le16(0, 0, width, height),
    bits,
    descriptor,
  ];

  it('looks a palette up, from its first entry on', () => {
    const entries = [10, 20, 30, 40, 50, 60];
    const planes = decode('tga', Uint8Array.from([...head(1, 2, 1, 8, 0x20, [...le16(5, 2), 24]), ...entries, 6, 5]));
    expect(planes.map((plane) => [plane.channel, ...valuesOf(plane)])).toEqual([
      ['R', 60, 30],
      ['G', 50, 20],
      ['B', 40, 10],
    ]);
  });

  it('spreads five bits over the full scale, and reads the bit of alpha', () => {
    const planes = decode('tga', Uint8Array.from([...head(2, 2, 1, 16, 0x21), ...le16(0x8000 | (31 << 10) | (16 << 5), 1)]));
    expect(planes.map((plane) => [plane.channel, ...valuesOf(plane)])).toEqual([
      ['R', 255, 0],
      ['G', 132, 0],
      ['B', 0, 8],
      ['A', 255, 0],
    ]);
  });

  it('turns rows and lines as its descriptor says', () => {
    const grey = (descriptor: number) => valuesOf(decode('tga', Uint8Array.from([...head(3, 2, 2, 8, descriptor), 1, 2, 3, 4]))[0]);
    expect(grey(0x20)).toEqual([1, 2, 3, 4]);
    expect(grey(0x00)).toEqual([3, 4, 1, 2]);
    expect(grey(0x30)).toEqual([2, 1, 4, 3]);
    expect(grey(0x10)).toEqual([4, 3, 2, 1]);
  });

  it('lets runs cross the end of a line, and takes a footer for its own', () => {
    const pixels = [0x84, 9, 0x02, 1, 2, 3];
    expect(valuesOf(decode('tga', Uint8Array.from([...head(11, 4, 2, 8, 0x20), ...pixels]))[0])).toEqual([9, 9, 9, 9, 9, 1, 2, 3]);
    const footer = [...le32(0, 0), ...new TextEncoder().encode('TRUEVISION-XFILE.\0')];
    expect(valuesOf(decode('tga', Uint8Array.from([...head(11, 4, 2, 8, 0x20), ...pixels, ...footer]))[0])).toHaveLength(8);
  });
});

describe('a TGA that promises more than is decoded at all', () => {
  it('is not examined, and not broken', () => {
    const side = 16_000;
    const packets = (side * side) / 128;
    const bytes = new Uint8Array(18 + packets * 2);
    bytes.set([0, 0, 11, 0, 0, 0, 0, 0, 0, 0, 0, 0, ...le16(side, side), 8, 0x20]);
    for (let i = 0; i < packets; i++) bytes[18 + 2 * i] = 0xff;
    const { facts } = inspectFrameFile(memorySource(bytes), 'a.tga', 'full', tools);
    expect(facts).toMatchObject({ problem: null, notExamined: expect.stringContaining('too large to look into') });
  });
});

describe('DPX', () => {
  function dpx(bits: number, packing: number, little: boolean, width: number, lines: readonly number[][], descriptor = 50): Uint8Array {
    const header = new Uint8Array(2048);
    const view = new DataView(header.buffer);
    header.set(new TextEncoder().encode(little ? 'XPDS' : 'SDPX'));
    view.setUint32(4, 2048, little);
    view.setUint16(770, 1, little);
    view.setUint32(772, width, little);
    view.setUint32(776, lines.length, little);
    header.set([descriptor, 2, 2, bits], 800);
    view.setUint16(804, packing, little);
    view.setUint32(808, 2048, little);
    const write = little ? le32 : be32;
    return Uint8Array.from([...header, ...lines.flatMap((words) => write(...words))]);
  }

  /** The first three samples of 10 bits in a word: the highest bits, or the lowest, left over. */
  const filled = (samples: readonly number[], shift: number) =>
    Array.from({ length: Math.ceil(samples.length / 3) }, (_, w) =>
      [0, 1, 2].reduce((word, i) => word | ((samples[w * 3 + i] ?? 0) << (20 + shift - 10 * i)), 0),
    );

  /** Samples one behind the other, from the low bits of each word up. */
  function packed(samples: readonly number[], bits: number): number[] {
    const words = new Array<number>(Math.ceil((samples.length * bits) / 32)).fill(0);
    samples.forEach((sample, i) => {
      for (let b = 0; b < bits; b++) if ((sample >> b) & 1) words[(i * bits + b) >> 5] |= 1 << ((i * bits + b) & 31);
    });
    return words;
  }

  it.each([true, false])('reads samples of 10 bits back in each packing (low byte first: %s)', (little) => {
    fc.assert(
      fc.property(fc.array(fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 0, max: 1023 }))), { minLength: 1, maxLength: 9 }), (pixels) => {
        const samples = pixels.flat();
        const layouts: [number, number[]][] = [
          [0, packed(samples, 10)],
          [1, filled(samples, 2)],
          [2, filled(samples, 0)],
        ];
        for (const [packing, words] of layouts) {
          const planes = decode('dpx', dpx(10, packing, little, pixels.length, [words, words]));
          const read = planes.map((plane) => valuesOf(plane).map((value) => Math.round((value * 1023) / 65535)));
          pixels.forEach((pixel, x) => expect(pixel, `packing ${packing}`).toEqual(read.map((values) => values[pixels.length + x])));
        }
      }),
      { numRuns: 40 },
    );
  });

  it('reads 12 bits without a gap', () => {
    const samples = [0, 4095, 1, 2048, 77, 4000];
    const planes = decode('dpx', dpx(12, 0, false, 2, [packed(samples, 12)]));
    expect(planes.map((plane) => valuesOf(plane).map((value) => Math.round((value * 4095) / 65535)))).toEqual([
      [0, 2048],
      [4095, 77],
      [1, 4000],
    ]);
  });

  it('puts alpha, blue, green, red in the usual order', () => {
    const planes = decode('dpx', dpx(8, 0, false, 1, [[0x0a0b0c0d]], 52));
    expect(planes.map((plane) => [plane.channel, ...valuesOf(plane)])).toEqual([
      ['R', 13],
      ['G', 12],
      ['B', 11],
      ['A', 10],
    ]);
  });
});

describe('EXR', () => {
  /** A flat file in whose header an attribute `type` says something else. */
  function withType(type: string): Uint8Array {
    const bytes = fixture('exr/rgba_half_none.exr');
    const letters = (text: string) => [...new TextEncoder().encode(text)];
    const attribute = [...letters('type\0string\0'), ...le32(type.length), ...letters(type)];
    // Behind magic number and version. What follows moves, and with it where the chunk table points.
    const longer = Uint8Array.from([...bytes.subarray(0, 8), ...attribute, ...bytes.subarray(8)]);
    const view = new DataView(longer.buffer);
    const firstChunk = 8 + attribute.length;
    for (let at = firstChunk; at + 8 <= longer.length; at++) {
      // The table: offsets that grow line by line, up to the first of them.
      const first = Number(view.getBigUint64(at, true)) + attribute.length;
      if (first <= at || first > longer.length || (first - at) % 8 !== 0 || view.getInt32(first, true) !== view.getInt32(dataWindowAt(longer) + 4, true))
        continue;
      for (let entry = at; entry < first; entry += 8) view.setBigUint64(entry, view.getBigUint64(entry, true) + BigInt(attribute.length), true);
      return longer;
    }
    throw new Error('There is no chunk table.');
  }

  function dataWindowAt(bytes: Uint8Array): number {
    const name = 'dataWindow\0box2i\0';
    for (let at = 0; ; at++) if ([...name].every((letter, i) => bytes[at + i] === letter.charCodeAt(0))) return at + name.length + 4;
  }

  it.each(['deepscanline', 'tiledimage', 'something'])('passes over a type that its flags contradict: %s', (type) => {
    const bytes = withType(type);
    expect(decode('exr', bytes).map(valuesOf)).toEqual(decode('exr', fixture('exr/rgba_half_none.exr')).map(valuesOf));
    expect(inspectFrameFile(memorySource(bytes), 'a.exr', 'headers', tools).facts.header?.assumed ?? []).toHaveLength(type === 'something' ? 0 : 1);
  });
});

describe('JPEG', () => {
  const fill = (bytes: Uint8Array, ...filling: number[]) => Uint8Array.from([...bytes.subarray(0, -2), ...filling, 0xff, 0xd9]);

  it('may be filled up to a whole byte, and more', () => {
    for (const file of ['jpeg/gray.jpg', 'jpeg/progressive.jpg']) {
      const plain = decode('jpg', fixture(file)).map(valuesOf);
      for (const filling of [[0xff, 0], [0xff, 0, 0xff, 0], [0]]) expect(decode('jpg', fill(fixture(file), ...filling)).map(valuesOf)).toEqual(plain);
    }
  });

  it('is corrupt where bytes stand that belong to no block', () => {
    const { facts } = inspectFrameFile(memorySource(fill(fixture('jpeg/gray.jpg'), 0x5a, 0x5a, 0x5a)), 'a.jpg', 'full', tools);
    expect(facts.problem?.code).toBe('corrupt');
  });

  it('is corrupt where a run goes beyond its band', () => {
    const bytes = bandOverrun();
    const { facts } = inspectFrameFile(memorySource(bytes), 'a.jpg', 'full', tools);
    expect(facts.problem).toEqual({ code: 'corrupt', message: expect.stringContaining('holds a value that no block has') });
  });

  /** A progressive picture of one block: its mean, then a band of eight frequencies in which a run of sixteen zeros is claimed. */
  function bandOverrun(): Uint8Array {
    const segment = (marker: number, ...data: number[]) => [0xff, marker, ...[data.length + 2].flatMap((length) => [length >> 8, length & 255]), ...data];
    const counts = [1, ...new Array<number>(15).fill(0)];
    return Uint8Array.from([
      0xff,
      0xd8,
      ...segment(0xdb, 0, ...new Array<number>(64).fill(1)),
      ...segment(0xc2, 8, 0, 8, 0, 8, 1, 1, 0x11, 0),
      ...segment(0xc4, 0x00, ...counts, 0),
      ...segment(0xda, 1, 1, 0x00, 0, 0, 0),
      0b01111111,
      ...segment(0xc4, 0x10, ...counts, 0xf0),
      ...segment(0xda, 1, 1, 0x00, 1, 8, 0),
      0b01111111,
      0xff,
      0xd9,
    ]);
  }
});

describe('an error of our own', () => {
  it('is none of the file', () => {
    const broken = {
      ...tools,
      crc32: () => {
        throw new RangeError('a table that is too small');
      },
    };
    const { facts, unexpected } = inspectFrameFile(memorySource(fixture('png/rgb8.png')), 'a.png', 'full', broken);
    expect(facts).toMatchObject({ problem: null, notExamined: expect.stringMatching(/^The file could not be looked into: a table that is too small\./) });
    expect(unexpected).toBeInstanceOf(RangeError);
  });

  it('is none of the file inside an unpacker either', () => {
    const broken = {
      ...tools,
      inflate: () => {
        throw new TypeError('no such thing');
      },
    };
    for (const file of ['png/rgb8.png', 'exr/rgba_half_zip.exr', 'exr/rgba_half_dwaa.exr', 'exr/rgba_half_pxr24.exr']) {
      const { facts, unexpected } = inspectFrameFile(memorySource(fixture(file)), file, 'full', broken);
      expect(facts.problem, file).toBeNull();
      expect(unexpected, file).toBeInstanceOf(TypeError);
    }
  });
});

describe('a JPEG whose scan has an empty header', () => {
  it('is corrupt, and says where', () => {
    const bytes = fixture('jpeg/gray.jpg');
    const at = bytes.findIndex((byte, i) => byte === 0xff && bytes[i + 1] === 0xda);
    // The segment's length counts itself alone; what it held follows as if it were the picture.
    const damaged = Uint8Array.from(bytes);
    damaged.set([0, 2], at + 2);
    const { facts } = inspectFrameFile(memorySource(damaged), 'gray.jpg', 'full', tools);
    expect(facts.problem?.code).toBe('corrupt');
    expect(facts.problem?.message).toMatch(/^The scan header at byte \d+ is impossible: it lists 0 components/);
  });
});
