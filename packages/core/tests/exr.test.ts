import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodeExr, floatToHalf, frameFormats, halfToFloat, inspectFrameFile, memorySource, MintError, type Plane } from '../src/index.ts';
import { fixture, references, tools } from './tools.ts';

const exr = frameFormats.find((format) => format.name === 'exr')!;

interface Reference {
  file: string;
  parts: {
    name: string;
    compression: number;
    dataWindow: [number, number, number, number];
    displayWindow: [number, number, number, number];
    channels: { name: string; type: string; samples: [number, number, number][] }[];
  }[];
}

const all = references<Reference>('exr');
/** Codes of the compressions that lose something; the reference reading is the measure. */
const LOSSY = [5, 6, 7, 8, 9];

function valueAt(plane: Plane, x: number, y: number): number {
  const stored = plane.data[plane.offset + (y * plane.width + x) * plane.stride];
  return plane.type === 'half' ? halfToFloat(stored) : stored;
}

describe.each(all)('the reference frame $file', ({ file, parts }) => {
  it('is sound at both levels', () => {
    for (const level of ['headers', 'full'] as const) {
      const { facts } = inspectFrameFile(memorySource(fixture(file)), file, level, tools);
      expect(facts.problem).toBeNull();
      expect(facts.trailingBytes).toBe(0);
      expect(facts.header?.dataWindow).toEqual(parts[0].dataWindow);
      expect(facts.header?.displayWindow).toEqual(parts[0].displayWindow);
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

  it('is truncated when its chunk table was never filled', () => {
    const bytes = fixture(file).slice();
    const first = firstChunkTable(bytes);
    bytes.fill(0, first, first + 8);
    for (const level of ['headers', 'full'] as const) {
      expect(inspectFrameFile(memorySource(bytes), file, level, tools).facts.problem?.code).toBe('truncated');
    }
  });
});

/** The chunks follow their table, so its first entry points just behind its last. */
function firstChunkTable(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  for (let at = 300; at < 4000; at++) {
    const length = Number(view.getBigUint64(at, true)) - at;
    if (length <= 0 || length >= 4096 || length % 8 !== 0) continue;
    const entries = Array.from({ length: length / 8 }, (_, i) => Number(view.getBigUint64(at + i * 8, true)));
    if (entries.every((entry, i) => i === 0 || (entry > entries[i - 1] && entry < bytes.length))) return at;
  }
  throw new Error('no chunk table');
}

describe.each(all)('the pixels of $file', ({ file, parts }) => {
  it('decode to the reference values', () => {
    const { frame } = exr.open(memorySource(fixture(file))).decode(tools);
    for (const part of parts) {
      for (const channel of part.channels) {
        const name = parts.length > 1 ? `${part.name}.${channel.name}` : channel.name;
        const plane = frame.planes.find((candidate) => candidate.channel === name)!;
        expect(plane.type).toBe(channel.type);
        for (const [x, y, value] of channel.samples) {
          const tolerance = LOSSY.includes(part.compression) ? 1e-3 : 1e-6;
          expect(Math.abs(valueAt(plane, x, y) - value), `${name} at ${x}, ${y}`).toBeLessThanOrEqual(tolerance * Math.abs(value));
        }
      }
    }
  });
});

describe('EXR', () => {
  it.each(['mipmap_half_zip', 'ripmap_half_piz'])('reads %s at its full size, and finds it whole', (name) => {
    const bytes = fixture(`exr/${name}.exr`);
    expect(inspectFrameFile(memorySource(bytes), 'a.exr', 'headers', tools).facts).toMatchObject({ problem: null, trailingBytes: 0 });
    const plain = exr.open(memorySource(fixture('exr/rgba_half_none.exr'))).decode(tools).frame.planes;
    expect(
      exr
        .open(memorySource(bytes))
        .decode(tools)
        .frame.planes.map(({ channel, data }) => ({ channel, data })),
    ).toEqual(plain.map(({ channel, data }) => ({ channel, data })));
    expect(inspectFrameFile(memorySource(bytes.subarray(0, bytes.length - 9)), 'a.exr', 'full', tools).facts.problem?.code).toBe('truncated');
  });

  it('says of deep pixels that they cannot be looked into, and finds them cut short all the same', () => {
    const bytes = deepFile();
    for (const level of ['headers', 'full'] as const) {
      const { facts } = inspectFrameFile(memorySource(bytes), 'a.exr', level, tools);
      expect(facts).toMatchObject({ problem: null, trailingBytes: 0, header: { width: 4, height: 3 } });
      if (level === 'full') expect(facts.notExamined).toContain('Deep pixels');
      expect(inspectFrameFile(memorySource(bytes.subarray(0, bytes.length - 2)), 'a.exr', level, tools).facts.problem?.code).toBe('truncated');
    }
  });

  it.each(['rgba_half_zip', 'rgba_half_zips', 'tiled_half_zip'])('finds flipped bytes in the packed pixels of %s', (name) => {
    const bytes = fixture(`exr/${name}.exr`);
    const sound: number[] = [];
    for (let at = 1400; at < bytes.length; at += 131) {
      const flipped = bytes.slice();
      flipped[at] ^= 0xff;
      if (inspectFrameFile(memorySource(flipped), 'a.exr', 'full', tools).facts.problem === null) sound.push(at);
    }
    expect(sound).toEqual([]);
  });

  it('takes the display window for the resolution and keeps the data window', () => {
    const { header } = inspectFrameFile(memorySource(fixture('exr/window_half_zip.exr')), 'a.exr', 'headers', tools).facts;
    const [left, top, right, bottom] = header!.displayWindow!;
    expect([header!.width, header!.height]).toEqual([right - left + 1, bottom - top + 1]);
    expect(header!.dataWindow).not.toEqual(header!.displayWindow);
  });

  it.each(['none', 'rle', 'zips', 'zip'] as const)('reads back what it writes with %s', (compression) => {
    const [width, height] = [37, 41];
    const count = width * height;
    const red = Uint16Array.from({ length: count }, (_, i) => floatToHalf(Math.sin(i / 7)));
    const depth = Float32Array.from({ length: count }, (_, i) => (i % 5 === 0 ? i / 3 : 8));
    const id = Uint32Array.from({ length: count }, (_, i) => (i >> 6) * 77777);
    const bytes = encodeExr(
      {
        dataWindow: [-3, 2, width - 4, height + 1],
        displayWindow: [0, 0, 63, 63],
        pixelAspect: 1,
        compression,
        channels: [
          { name: 'Z', type: 'float', data: depth },
          { name: 'R', type: 'half', data: red },
          { name: 'id', type: 'uint', data: id },
        ],
        metadata: { camera: 'lamp', samples: { int: 16 }, renderTime: { float: 0.5 } },
      },
      tools,
    );
    const { frame } = exr.open(memorySource(bytes)).decode(tools);
    const plane = (name: string) => frame.planes.find((candidate) => candidate.channel === name)!.data;
    expect(plane('R')).toEqual(red);
    expect(plane('Z')).toEqual(depth);
    expect(plane('id')).toEqual(id);
    expect(frame.header.metadata).toMatchObject({ camera: 'lamp', samples: 16, renderTime: 0.5 });
  });

  it('neither allocates nor loops for a hostile header', () => {
    const bytes = fixture('exr/rgba_half_zip.exr').slice();
    const at = new TextDecoder('latin1').decode(bytes).indexOf('dataWindow\0box2i\0') + 'dataWindow\0box2i\0'.length + 4;
    new DataView(bytes.buffer).setInt32(at + 8, 2 ** 29, true);
    expect(inspectFrameFile(memorySource(bytes), 'a.exr', 'full', tools).facts.problem?.code).toBe('corrupt');
    new DataView(bytes.buffer).setInt32(at + 12, 2 ** 29, true);
    expect(inspectFrameFile(memorySource(bytes), 'a.exr', 'full', tools).facts.problem).not.toBeNull();
  });

  it.each(['rgba_half_rle', 'parts_float_zip', 'tiled_half_none'])('throws nothing but our own errors on damaged bytes of %s', (name) => {
    const start = fixture(`exr/${name}.exr`);
    const place = fc.oneof(fc.nat(600), fc.nat(start.length - 1));
    fc.assert(
      fc.property(fc.array(fc.tuple(place, fc.nat(255)), { maxLength: 8 }), fc.nat(start.length), fc.boolean(), (changes, length, cut) => {
        const bytes = start.slice(0, cut ? length : undefined);
        for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
        for (const action of [
          () => exr.open(memorySource(bytes)).header,
          () => exr.open(memorySource(bytes)).check(),
          () => exr.open(memorySource(bytes)).decode(tools),
        ]) {
          try {
            action();
          } catch (thrown) {
            expect(thrown).toBeInstanceOf(MintError);
          }
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe('half floats', () => {
  it('come back unchanged, all 65,536 of them', () => {
    const wrong: number[] = [];
    for (let bits = 0; bits < 65536; bits++) {
      const value = halfToFloat(bits);
      if (Number.isNaN(value) ? !Number.isNaN(halfToFloat(floatToHalf(value))) : floatToHalf(value) !== bits) wrong.push(bits);
    }
    expect(wrong).toEqual([]);
  });

  it('round to the nearest', () => {
    fc.assert(
      fc.property(fc.double({ min: -60000, max: 60000, noNaN: true }), (value) => {
        const bits = floatToHalf(Math.fround(value));
        const error = Math.abs(halfToFloat(bits) - Math.fround(value));
        for (const other of [bits - 1, bits + 1]) {
          const distance = Math.abs(halfToFloat(other & 0xffff) - Math.fround(value));
          if (Number.isFinite(distance)) expect(error).toBeLessThanOrEqual(distance);
        }
      }),
    );
    expect(floatToHalf(70000)).toBe(0x7c00);
  });
});

/** Three lines of deep pixels without compression: one sample in the first pixel of each. */
function deepFile(): Uint8Array {
  const text = (value: string) => [...new TextEncoder().encode(value)];
  const int = (...values: number[]) => values.flatMap((value) => [value & 255, (value >> 8) & 255, (value >> 16) & 255, (value >> 24) & 255]);
  const long = (value: number) => [...int(value), 0, 0, 0, 0];
  const attribute = (name: string, type: string, value: number[]) => [...text(name), 0, ...text(type), 0, ...int(value.length), ...value];
  const header = [
    ...[0x76, 0x2f, 0x31, 0x01, 2, 0x08, 0, 0],
    ...attribute('channels', 'chlist', [...text('Z'), 0, ...int(2), 0, 0, 0, 0, ...int(1, 1), 0]),
    ...attribute('chunkCount', 'int', int(3)),
    ...attribute('compression', 'compression', [0]),
    ...attribute('dataWindow', 'box2i', int(0, 0, 3, 2)),
    ...attribute('displayWindow', 'box2i', int(0, 0, 3, 2)),
    ...attribute('lineOrder', 'lineOrder', [0]),
    ...attribute('pixelAspectRatio', 'float', int(0x3f800000)),
    ...attribute('type', 'string', text('deepscanline')),
    0,
  ];
  const chunk = (y: number) => [...int(y), ...long(16), ...long(4), ...long(4), ...int(1, 1, 1, 1), ...int(0x40000000)];
  const start = header.length + 3 * 8;
  const length = chunk(0).length;
  return Uint8Array.from([...header, ...[0, 1, 2].flatMap((y) => long(start + y * length)), ...[0, 1, 2].flatMap(chunk)]);
}
