import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodeExrParts, type ExrPicture } from '../src/formats/index.ts';
import { encodeExr, floatToHalf, frameFormats, halfToFloat, memorySource, type DecodedFrame } from '../src/index.ts';
import { fixture, tools } from './tools.ts';

const exr = frameFormats.find((format) => format.name === 'exr')!;
const decode = (bytes: Uint8Array) => exr.open(memorySource(bytes)).decode(tools).frame;
type Compression = ExrPicture['compression'];

/** A fixture's picture, to be written anew. */
function pictureOf({ header, planes }: DecodedFrame, compression: Compression): ExrPicture {
  return {
    ...{ dataWindow: header.dataWindow!, displayWindow: header.displayWindow!, pixelAspect: header.pixelAspect ?? 1, compression, metadata: {} },
    channels: planes.map(({ channel, type, data, offset, width, height }) => ({
      name: channel,
      type: type as 'half' | 'float' | 'uint',
      data: (data as Uint16Array).subarray(offset, offset + width * height),
    })),
  };
}

const planeOf = (frame: DecodedFrame, channel: string) => frame.planes.find((plane) => plane.channel === channel)!;

const EXACT: Compression[] = ['none', 'rle', 'zips', 'zip', 'piz'];
const PICTURES = ['exr/rgba_half_none.exr', 'exr/z_float_none.exr', 'exr/id_uint_none.exr', 'exr/layers_half_none.exr', 'exr/window_half_none.exr'];

describe('a picture that is written anew', () => {
  it.each(EXACT.flatMap((compression) => PICTURES.map((file) => [compression, file] as const)))('with %s has every bit of %s', (compression, file) => {
    const original = decode(fixture(file));
    const written = decode(encodeExr(pictureOf(original, compression), tools));
    for (const plane of original.planes) expect(planeOf(written, plane.channel).data).toEqual(plane.data);
  });

  it('with pxr24 has every bit of halves and whole numbers, and 24 of floats', () => {
    for (const file of ['exr/rgba_half_none.exr', 'exr/id_uint_none.exr']) {
      const original = decode(fixture(file));
      const written = decode(encodeExr(pictureOf(original, 'pxr24'), tools));
      for (const plane of original.planes) expect(planeOf(written, plane.channel).data).toEqual(plane.data);
    }
    const original = decode(fixture('exr/z_float_none.exr'));
    const written = decode(encodeExr(pictureOf(original, 'pxr24'), tools));
    original.planes[0]!.data.forEach((value, i) => {
      const got = written.planes[0]!.data[i]!;
      if (!Number.isFinite(value)) expect(got).toEqual(value);
      // Sixteen bits of fraction, rounded.
      else expect(Math.abs(got - value)).toBeLessThanOrEqual(Math.abs(value) * 2 ** -16);
    });
  });

  it('with pxr24 loses no more than the library did, bit for bit', () => {
    const written = decode(encodeExr(pictureOf(decode(fixture('exr/z_float_none.exr')), 'pxr24'), tools));
    expect(written.planes[0]!.data).toEqual(decode(fixture('exr/z_float_pxr24.exr')).planes[0]!.data);
  });

  it('with b44 is what the library makes of it, bit for bit', () => {
    const written = decode(encodeExr(pictureOf(decode(fixture('exr/rgba_half_none.exr')), 'b44'), tools));
    const library = decode(fixture('exr/rgba_half_b44.exr'));
    for (const plane of library.planes) expect(planeOf(written, plane.channel).data).toEqual(plane.data);
  });

  it.each(['dwaa', 'dwab'] as const)('with %s is as near as what the library makes of it, and alpha exact', (compression) => {
    const original = decode(fixture('exr/rgba_half_none.exr'));
    const written = decode(encodeExr(pictureOf(original, compression), tools));
    const library = decode(fixture(`exr/rgba_half_${compression}.exr`));
    const away = (frame: DecodedFrame, channel: string) => {
      const [a, b] = [planeOf(original, channel).data, planeOf(frame, channel).data];
      let [sum, most] = [0, 0];
      a.forEach((bits, i) => {
        const [from, to] = [halfToFloat(bits), halfToFloat(b[i]!)];
        if (!Number.isFinite(from)) return;
        const error = Math.abs(to - from) / (Math.abs(from) + 0.1);
        sum += error * error;
        most = Math.max(most, error);
      });
      return { mean: Math.sqrt(sum / a.length), most };
    };
    for (const channel of ['R', 'G', 'B']) {
      expect(away(written, channel).mean).toBeLessThan(away(library, channel).mean * 1.15 + 1e-4);
    }
    expect(planeOf(written, 'A').data).toEqual(planeOf(original, 'A').data);
  });

  it.each(['piz', 'pxr24', 'b44', 'dwaa', 'dwab', 'rle'] as const)('with %s comes back at any size, of any values', (compression) => {
    const half = fc.integer({ min: 0, max: 65535 });
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 45 }),
        fc.integer({ min: 1, max: 70 }),
        fc.array(half, { minLength: 1, maxLength: 40 }),
        fc.boolean(),
        (width, height, values, isNoisy) => {
          const count = width * height;
          const data = Uint16Array.from({ length: count }, (_, i) =>
            isNoisy ? (values[i % values.length]! * (i + 7)) & 0x7bff : values[Math.floor(i / 50) % values.length]!,
          );
          const depth = Float32Array.from(data, (bits, i) => bits / (i + 1));
          const window = [0, 0, width - 1, height - 1] as const;
          const names = ['R', 'G', 'B', 'A', 'mask.id'];
          const channels = [...names.map((name) => ({ name, type: 'half' as const, data })), { name: 'Z', type: 'float' as const, data: depth }];
          const frame = decode(encodeExr({ dataWindow: window, displayWindow: window, pixelAspect: 1, compression, channels, metadata: {} }, tools));
          expect(frame.planes).toHaveLength(6);
          if (compression === 'piz' || compression === 'rle') {
            for (const name of names) expect(planeOf(frame, name).data).toEqual(data);
            expect(planeOf(frame, 'Z').data).toEqual(depth);
          }
          // What b44 and pxr24 keep of other kinds, and dwa of alpha, they keep exactly.
          if (compression === 'b44' || compression === 'dwaa' || compression === 'dwab') expect(planeOf(frame, 'Z').data).toEqual(depth);
          if (compression === 'dwaa' || compression === 'dwab') expect(planeOf(frame, 'mask.id').data).toEqual(data);
        },
      ),
      { numRuns: 25 },
    );
  });
});

describe('a file of several parts', () => {
  it('has each picture under its name, with its own size and packing', () => {
    const part = (name: string, width: number, compression: Compression): ExrPicture => ({
      ...{ name, compression, dataWindow: [0, 0, width - 1, 39], displayWindow: [0, 0, 63, 39], pixelAspect: 1, metadata: { view: name } },
      channels: [{ name: 'Y', type: 'half', data: Uint16Array.from({ length: width * 40 }, (_, i) => floatToHalf(Math.sin(i / 9) + width)) }],
    });
    const pictures = [part('left', 64, 'zip'), part('right', 50, 'piz'), part('mask', 33, 'none')];
    const open = exr.open(memorySource(encodeExrParts(pictures, tools)));
    expect(open.check().trailingBytes).toBe(0);
    const { planes } = open.decode(tools).frame;
    expect(planes.map(({ channel, width }) => `${channel} ${width}`)).toEqual(['left.Y 64', 'right.Y 50', 'mask.Y 33']);
    pictures.forEach(({ channels }, i) => expect(planes[i]!.data).toEqual(channels[0]!.data));
  });
});
