import { describe, expect, it } from 'vitest';
import {
  convertFrame,
  encodeExr,
  floatToHalf,
  halfToFloat,
  LossSum,
  memorySource,
  otherShapeOf,
  readExrAttributes,
  recipeSchema,
  recogniseFormat,
  sayLoss,
  type ConvertSource,
  type DecodedFrame,
  type Plane,
} from '../src/index.ts';
import { fixture, references, tools } from './tools.ts';

const read = (bytes: Uint8Array, name: string): ConvertSource => {
  const open = recogniseFormat(memorySource(bytes), name).open(memorySource(bytes));
  const { format, alphaKind } = open.header;
  const usual = format === 'exr' ? 'premultiplied' : format === 'png' ? 'straight' : null;
  return {
    frame: open.decode(tools).frame,
    alphaKind: alphaKind ?? usual,
    attributes: format === 'exr' ? readExrAttributes(memorySource(bytes)) : null,
    shape: format === 'exr' ? otherShapeOf(memorySource(bytes)) : [],
  };
};
const load = (name: string) => read(fixture(name), name);
const EXTENSIONS = { exr: 'exr', png: 'png', tiff: 'tif', jpeg: 'jpg', tga: 'tga', dpx: 'dpx' } as const;

function convert(source: ConvertSource | ConvertSource[], wish: object) {
  const recipe = recipeSchema.parse(wish);
  const made = convertFrame([source].flat(), recipe, tools);
  const back = read(made.bytes!, `a.${EXTENSIONS[recipe.format]}`).frame;
  const sum = new LossSum();
  sum.add(made, back);
  return { made, back, loss: sum.sum() };
}

const at = ({ type, data, offset, stride, width }: Plane, x: number, y: number) => {
  const stored = data[offset + (y * width + x) * stride]!;
  return type === 'half' ? halfToFloat(stored) : type === 'u8' ? stored / 255 : type === 'u16' ? stored / 65535 : stored;
};
const plane = (frame: DecodedFrame, name: string) => frame.planes.find(({ channel }) => channel === name)!;
const values = (frame: DecodedFrame, name: string) => {
  const found = plane(frame, name);
  return Array.from({ length: found.width * found.height }, (_, i) => at(found, i % found.width, Math.floor(i / found.width)));
};

describe('the same kind of numbers', () => {
  it.each(['exr/rgba_half_zip.exr', 'exr/z_float_piz.exr', 'exr/id_uint_zip.exr', 'exr/layers_half_zip.exr', 'exr/window_half_zip.exr'])(
    'of %s come through every exact packing',
    (name) => {
      const source = load(name);
      for (const compression of ['none', 'rle', 'zips', 'zip', 'piz'] as const) {
        const { back, loss } = convert(source, { format: 'exr', compression });
        expect(loss).toMatchObject({ most: 0, clipped: 0, notNumbers: 0 });
        for (const { channel, data } of source.frame.planes) expect(plane(back, channel).data).toEqual(data);
        expect([back.header.dataWindow, back.header.displayWindow]).toEqual([source.frame.header.dataWindow, source.frame.header.displayWindow]);
      }
    },
  );

  it('come through PNG, TIFF, TGA and DPX, as the reference decoders read them', () => {
    for (const [name, formats] of [
      ['png/rgb8.png', ['png', 'tiff', 'tga', 'dpx']],
      ['png/rgba8.png', ['png', 'tiff', 'tga', 'dpx']],
      ['png/rgb16.png', ['png', 'tiff', 'dpx']],
      ['dpx/rgb16.dpx', ['png', 'tiff', 'dpx']],
    ] as const) {
      const source = load(name);
      const reference = references<{ file: string }>(name.split('/')[0]!).find(({ file }) => file === name);
      expect(reference).toBeDefined();
      for (const format of formats) {
        const { back, loss } = convert(source, { format });
        expect([name, format, loss.most, loss.clipped]).toEqual([name, format, 0, 0]);
        for (const { channel } of source.frame.planes) expect(values(back, channel)).toEqual(values(source.frame, channel));
      }
    }
  });

  it('keep floats and halves in TIFF', () => {
    for (const name of ['exr/rgba_half_zip.exr', 'exr/z_float_zip.exr']) {
      const source = load(name);
      const { back } = convert(source, { format: 'tiff' });
      expect(back.header.channels[0]!.depth).toBe(name.includes('half') ? 'half' : 'float');
      const names = name.includes('rgba') ? ['R', 'G', 'B', 'A'] : [];
      for (const channel of names) expect(values(back, channel)).toEqual(values(source.frame, channel));
      if (names.length === 0) expect(values(back, back.planes[0]!.channel)).toEqual(values(source.frame, 'Z'));
    }
  });
});

describe('another kind of numbers', () => {
  const ramp = (name: string, value: (i: number) => number) => ({
    name,
    type: 'half' as const,
    data: Uint16Array.from({ length: 64 }, (_, i) => floatToHalf(value(i))),
  });
  const exr = (...channels: ReturnType<typeof ramp>[]) =>
    read(
      encodeExr(
        {
          dataWindow: [0, 0, 7, 7],
          displayWindow: [0, 0, 7, 7],
          pixelAspect: 1,
          compression: 'zip',
          channels,
          metadata: { camera: 'lamp', samples: { int: 16 } },
        },
        tools,
      ),
      'a.exr',
    );

  it('is made of light by the curve, and rounded to half a step', () => {
    const source = exr(...['R', 'G', 'B'].map((name) => ramp(name, (i) => i / 63)));
    const { back, loss } = convert(source, { format: 'png', depth: '16', curve: 'srgb' });
    values(source.frame, 'R').forEach((light, i) => {
      const code = light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055;
      expect(Math.abs(values(back, 'R')[i]! - code)).toBeLessThanOrEqual(0.5 / 65535 + 1e-12);
    });
    expect(loss.most).toBeLessThanOrEqual(0.5 / 65535 + 1e-12);
    expect(loss.most).toBeGreaterThan(0);
    expect(back.header.metadata).toMatchObject({ camera: 'lamp', samples: '16' });
  });

  it('says what is cut', () => {
    const source = exr(...['R', 'G', 'B'].map((name) => ramp(name, (i) => (i < 16 ? 2 : i < 24 ? Number.NaN : 0.5))));
    const { loss } = convert(source, { format: 'png' });
    expect(loss.clipped).toBe(0.25);
    expect(loss.notNumbers).toBe(0.125);
    expect(sayLoss('beauty', loss).slice(0, 2)).toEqual([
      'beauty: 25 % of the values are cut at 0 or 1, on 1 frame looked at.',
      'beauty: 13 % of the values are no numbers, and become 0.',
    ]);
  });

  it('goes back to light, where codes came from light', () => {
    const source = exr(...['R', 'G', 'B'].map((name) => ramp(name, (i) => i / 63)));
    const png = convert(source, { format: 'png', depth: '16' });
    const { back } = convert({ frame: png.back, alphaKind: null, attributes: null, shape: [] }, { format: 'exr', depth: 'float' });
    values(back, 'R').forEach((light, i) => expect(Math.abs(light - values(source.frame, 'R')[i]!)).toBeLessThan(3e-5));
  });

  it('multiplies alpha in and divides it out, and leaves colours alone where there is none', () => {
    const colour = (i: number) => (i < 8 ? 0.25 : (i % 8) / 8);
    const cover = (i: number) => (i < 8 ? 0 : (1 + (i % 8)) / 8);
    const source = exr(...['R', 'G', 'B'].map((name) => ramp(name, colour)), ramp('A', cover));
    const straight = convert(source, { format: 'exr', depth: 'float', alpha: 'straight' });
    expect(straight.made.glowing).toBe(8);
    values(straight.back, 'R').forEach((value, i) =>
      expect(value).toBe(Math.fround(i < 8 ? 0.25 : values(source.frame, 'R')[i]! / values(source.frame, 'A')[i]!)),
    );
    const again = convert(
      { frame: straight.back, alphaKind: 'straight', attributes: null, shape: [] },
      { format: 'exr', depth: 'half', alpha: 'premultiplied' },
    );
    // Exactly nothing where there is no alpha; what it was elsewhere.
    values(again.back, 'G').forEach((value, i) => expect(value).toBe(i < 8 ? 0 : values(source.frame, 'G')[i]));
    // PNG's alpha is straight by its own rule, whether anybody asks or not.
    const png = convert(source, { format: 'png', depth: '16', curve: 'linear' });
    expect(Math.abs(values(png.back, 'R')[20]! - values(source.frame, 'R')[20]! / values(source.frame, 'A')[20]!)).toBeLessThan(1e-5);
  });

  it('splits layers, and gathers files into layers and parts', () => {
    const layered = load('exr/layers_half_zip.exr');
    const layer = layered.frame.planes
      .map(({ channel }) => channel)
      .find((name) => name.includes('.'))!
      .split('.')[0]!;
    const own = layered.frame.planes.filter(({ channel }) => channel.startsWith(`${layer}.`));
    const channels = own.map(({ channel }) => ({ file: 0, from: channel, to: channel.split('.')[1]!, part: '' }));
    const split = convert(layered, { format: 'exr', channels });
    own.forEach(({ channel, data }) => expect(plane(split.back, channel.split('.')[1]!).data).toEqual(data));
    const [a, b] = [exr(ramp('R', (i) => i)), exr(ramp('Z', (i) => -i))];
    const both = [
      { file: 0, from: 'R', to: 'R', part: '' },
      { file: 1, from: 'Z', to: 'depth.Z', part: '' },
    ];
    const gathered = convert([a, b], { format: 'exr', more: ['b'], channels: both });
    expect(gathered.back.planes.map(({ channel }) => channel).sort()).toEqual(['R', 'depth.Z']);
    const parts = convert([a, b], {
      format: 'exr',
      more: ['b'],
      channels: both.map((channel, i) => ({ ...channel, to: channel.from, part: ['beauty', 'depth'][i] })),
    });
    expect(parts.back.planes.map(({ channel }) => channel)).toEqual(['beauty.R', 'depth.Z']);
    expect(parts.loss.most).toBe(0);
  });

  it('says what of a file’s shape the new one does not have', () => {
    expect(sayLoss('all', convert(load('exr/parts_float_zip.exr'), { format: 'exr' }).loss)[0]).toMatch(/^all: \d parts become layers of one\.$/);
    expect(sayLoss('all', convert(load('exr/tiled_half_zip.exr'), { format: 'exr' }).loss)[0]).toBe('all: tiles become scan lines.');
  });

  it('places the data window in the display window, and says what is cut', () => {
    const source = load('exr/window_half_zip.exr');
    const { displayWindow, dataWindow } = source.frame.header;
    const { back, made } = convert(source, { format: 'tiff' });
    expect([back.header.width, back.header.height]).toEqual([displayWindow![2] - displayWindow![0] + 1, displayWindow![3] - displayWindow![1] + 1]);
    const [x, y] = [Math.max(dataWindow![0], displayWindow![0]), Math.max(dataWindow![1], displayWindow![1])];
    expect(at(plane(back, 'R'), x - displayWindow![0], y - displayWindow![1])).toBe(at(plane(source.frame, 'R'), x - dataWindow![0], y - dataWindow![1]));
    expect(made.cut).toBeGreaterThanOrEqual(0);
  });

  it('refuses what a format cannot hold, and says what could be done', () => {
    expect(() => convert(load('exr/id_uint_zip.exr'), { format: 'png' })).toThrow(/32 bits are held by EXR alone/);
    expect(() => convert(load('exr/rgba_half_zip.exr'), { format: 'png', depth: 'half' })).toThrow(/PNG does not hold half/);
    expect(() => convert(exr(ramp('A', () => 1)), { format: 'exr', alpha: 'none' })).toThrow(/Nothing but alpha/);
    expect(() =>
      convert(
        exr(
          ramp('u', () => 1),
          ramp('v', () => 1),
        ),
        { format: 'png' },
      ),
    ).toThrow(/holds grey or colours/);
  });
});
