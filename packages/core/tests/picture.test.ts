import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  encodeExr,
  floatToHalf,
  halfToFloat,
  MintError,
  packPicture,
  readPictureMessage,
  seeColour,
  viewTransforms,
  writePictureMessage,
  type DecodedFrame,
  type Look,
  type PictureWish,
  type Plane,
} from '../src/index.ts';
import { memorySource, recogniseFormat } from '../src/index.ts';
import { tools } from './tools.ts';

const plainly: Look = { exposure: 0, gamma: 1, transform: 'srgb' };
const wish = (more: Partial<PictureWish> = {}): PictureWish => ({ layer: null, only: null, region: null, reduce: 1, ...more });

/** A frame whose value in channel c at (x, y) is 100 c + 10 y + x. */
function frameOf(channels: readonly string[], width: number, height: number, type: 'half' | 'float' = 'half'): DecodedFrame {
  const planes = channels.map((channel, c): Plane => {
    const values = Array.from({ length: width * height }, (_, i) => 100 * c + 10 * Math.floor(i / width) + (i % width));
    return { channel, type, width, height, data: type === 'half' ? Uint16Array.from(values, floatToHalf) : Float32Array.from(values), offset: 0, stride: 1 };
  });
  const window = [0, 0, width - 1, height - 1] as const;
  return {
    header: {
      format: 'exr',
      width,
      height,
      pixelAspect: 1,
      channels: channels.map((name) => ({ name, depth: type })),
      namedChannels: true,
      compression: 'zip',
      dataWindow: window,
      displayWindow: window,
      metadata: {},
    },
    planes,
  };
}

const numbers = ({ samples }: { samples: ArrayLike<number> }) => Array.from(samples, halfToFloat);

describe('a packed picture', () => {
  it('holds what a pass shows by itself: colour with its alpha, in the order of the letters', () => {
    const packed = packPicture(frameOf(['A', 'B', 'G', 'R'], 2, 1), wish())!;
    expect(packed.info.channels).toEqual(['R', 'G', 'B', 'A']);
    expect(packed.info.type).toBe('half');
    expect(numbers(packed)).toEqual([300, 200, 100, 0, 301, 201, 101, 1]);
    expect(packed.info.all).toEqual(['A', 'B', 'G', 'R']);
  });

  it('holds the channels of its layer only, and any channel by its name', () => {
    const frame = frameOf(['diffuse.B', 'diffuse.G', 'diffuse.R', 'Z'], 1, 1);
    expect(packPicture(frame, wish({ layer: ['diffuse.B', 'diffuse.G', 'diffuse.R'] }))!.info.channels).toEqual(['diffuse.R', 'diffuse.G', 'diffuse.B']);
    expect(packPicture(frame, wish({ only: ['Z'] }))!.info.channels).toEqual(['Z']);
    expect(packPicture(frame, wish({ only: ['nothing'] }))).toBeNull();
  });

  it('holds a part of it, cut at its edges', () => {
    const packed = packPicture(frameOf(['Z'], 4, 3), wish({ region: [2, 1, 10, 10] }))!;
    expect([packed.info.left, packed.info.top, packed.info.width, packed.info.height]).toEqual([2, 1, 2, 2]);
    expect(numbers(packed)).toEqual([12, 13, 22, 23]);
  });

  it('holds the mean of each square where it is reduced, and keeps the sum of all', () => {
    const packed = packPicture(frameOf(['Z'], 5, 3, 'float'), wish({ reduce: 2 }))!;
    expect([packed.info.width, packed.info.height, packed.info.reduce, packed.info.full]).toEqual([3, 2, 2, [5, 3]]);
    expect(Array.from(packed.samples)).toEqual([5.5, 7.5, 9, 20.5, 22.5, 24]);
  });

  it('of channels of several kinds holds floats', () => {
    const [a, b] = [frameOf(['R', 'G'], 1, 1), frameOf(['B'], 1, 1, 'float')];
    const packed = packPicture({ ...a, planes: [...a.planes, ...b.planes] }, wish())!;
    expect([packed.info.type, ...packed.samples]).toEqual(['float', 0, 100, 0]);
  });

  it('comes out of its message as it went in, from an EXR as well', () => {
    const half = fc.integer({ min: 0, max: 0xffff });
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 7 }), fc.integer({ min: 1, max: 5 }), fc.array(half, { minLength: 35, maxLength: 35 }), (width, height, bits) => {
        const data = Uint16Array.from(bits.slice(0, width * height));
        const window = [-3, 2, width - 4, height + 1] as const;
        const file = encodeExr(
          {
            dataWindow: window,
            displayWindow: [-3, 2, 20, 20],
            pixelAspect: 2,
            compression: 'zip',
            channels: [{ name: 'Y', type: 'half', data }],
            metadata: {},
          },
          tools,
        );
        const source = memorySource(file);
        const packed = packPicture(recogniseFormat(source, 'a.exr').open(source).decode(tools).frame, wish())!;
        const read = readPictureMessage(writePictureMessage(packed).buffer);
        expect(read.info).toEqual({ ...packed.info, dataWindow: [...window], displayWindow: [-3, 2, 20, 20], pixelAspect: 2 });
        // Bit by bit: what is no number stays the one it was.
        expect([...read.samples]).toEqual([...data]);
      }),
    );
  });

  it('says when its message arrived cut short', () => {
    const bytes = writePictureMessage(packPicture(frameOf(['Z'], 4, 4), wish())!);
    for (const length of [0, 3, 20, bytes.length - 1]) expect(() => readPictureMessage(bytes.slice(0, length).buffer)).toThrow(MintError);
  });
});

describe('what is seen of light', () => {
  it('is what sRGB says where nothing is turned', () => {
    expect(seeColour([0, 0.18, 1], plainly).map((value) => Math.round(value * 255))).toEqual([0, 118, 255]);
  });

  it('never falls where light rises, in any view', () => {
    const light = fc.double({ min: 0, max: 1e4, noNaN: true });
    fc.assert(
      fc.property(
        light,
        light,
        fc.constantFrom(...viewTransforms),
        fc.integer({ min: -8, max: 8 }),
        fc.constantFrom(0.5, 1, 2.2),
        (a, b, transform, exposure, gamma) => {
          const see = (value: number) => seeColour([value, value, value], { exposure, gamma, transform })[0];
          const [low, high] = a < b ? [a, b] : [b, a];
          expect(see(low)).toBeLessThanOrEqual(see(high));
        },
      ),
    );
  });

  it('of a stop more is that of twice the light', () => {
    for (const transform of viewTransforms) {
      expect(seeColour([0.1, 0.1, 0.1], { exposure: 1, gamma: 1, transform })[0]).toBeCloseTo(
        seeColour([0.2, 0.2, 0.2], { exposure: 0, gamma: 1, transform })[0],
        12,
      );
    }
  });
});
