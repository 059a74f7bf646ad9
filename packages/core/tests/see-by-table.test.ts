import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeSRgb, floatToHalf, halfToFloat, seeChannel, SeenByTable, viewTransforms, type Look, type SentPicture } from '../src/index.ts';

const ARRAYS = { u8: Uint8Array, u16: Uint16Array, half: Uint16Array, float: Float32Array } as const;
type Type = keyof typeof ARRAYS;

/** A row of pixels of these samples. */
function picture(type: Type, channels: string[], values: number[]): SentPicture {
  const width = values.length / channels.length;
  const window: SentPicture['info']['dataWindow'] = [0, 0, width - 1, 0];
  const info: SentPicture['info'] = {
    format: 'exr',
    type,
    channels,
    all: channels,
    left: 0,
    top: 0,
    width,
    height: 1,
    reduce: 1,
    full: [width, 1],
    dataWindow: window,
    displayWindow: window,
    pixelAspect: 1,
    alphaKind: null,
    damage: [],
    problem: '',
  };
  return { info, samples: ARRAYS[type].from(type === 'half' ? values.map(floatToHalf) : values) };
}

function see(shown: SentPicture, look: Look, alpha: Partial<{ straight: boolean; behind: [number, number, number] | null }> = {}): number[] {
  const out = new Uint8ClampedArray(shown.info.width * 4);
  new SeenByTable(look).see(shown, { hasAlpha: shown.info.channels.length === 4, straight: false, behind: null, ...alpha }, out);
  return [...out];
}
const plain: Look = { exposure: 0, gamma: 1, transform: 'srgb' };

describe('what is looked up', () => {
  it('is what the sums say, within one of 255, for every type, look and alpha', () => {
    const looks = fc.record({
      exposure: fc.double({ min: -6, max: 6, noNaN: true }),
      gamma: fc.double({ min: 0.3, max: 3, noNaN: true }),
      transform: fc.constantFrom(...viewTransforms),
    });
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(
        looks,
        fc.constantFrom<Type>('u8', 'u16', 'half', 'float'),
        fc.tuple(share, share, share, share),
        fc.boolean(),
        share,
        (look, type, shares, straight, behind) => {
          const scale = type === 'u8' ? 255 : type === 'u16' ? 65535 : 1;
          const samples = shares.map((value) => (scale === 1 ? value : Math.round(value * scale)));
          const shown = picture(type, ['R', 'G', 'B', 'A'], samples);
          const linear = (value: number) => (type === 'half' ? halfToFloat(floatToHalf(value)) : scale === 1 ? Math.fround(value) : decodeSRgb(value / scale));
          const alpha = type === 'half' ? halfToFloat(floatToHalf(samples[3]!)) : Math.fround(samples[3]!) / scale;
          const wanted = samples.slice(0, 3).map((value) => 255 * seeChannel(linear(value) * (straight ? alpha : 1) + behind * (1 - alpha), look));
          const found = see(shown, look, { straight, behind: [behind, behind, behind] });
          // The steps of a half where a high exposure spreads the darks: an eleventh bit, seen through the steepest look.
          wanted.forEach((value, i) => expect(Math.abs(found[i]! - value)).toBeLessThanOrEqual(1.2));
          expect(found[3]).toBe(255);
        },
      ),
      {
        numRuns: 25,
        // An alpha that is not 1 before it is written as a float, and is then.
        examples: [[{ exposure: 0, gamma: 1.3473336987990736, transform: 'rec709' }, 'float', [0, 0, 0, 0.9999999701976776], false, 0.9999999999999973]],
      },
    );
  }, 30_000);

  it('is of two pictures how far their light lies apart, times the gain', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    const pixel = fc.tuple(share, share, share, share);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(pixel, pixel), { minLength: 1, maxLength: 5 }),
        fc.constantFrom<Type>('half', 'float', 'u16'),
        fc.boolean(),
        share,
        fc.constantFrom(1, 8, 64),
        (pixels, type, straight, behind, gain) => {
          const scale = type === 'u16' ? 65535 : 1;
          const [one, other] = [0, 1].map((side) =>
            picture(
              type,
              ['R', 'G', 'B', 'A'],
              pixels.flatMap((pair) => pair[side]!.map((v) => v * scale)),
            ),
          );
          const lightOf = (value: number) =>
            type === 'half' ? halfToFloat(floatToHalf(value)) : type === 'float' ? value : decodeSRgb(Math.floor(value * scale) / scale);
          const alphaOf = (value: number) => (type === 'u16' ? Math.floor(value * scale) / scale : lightOf(value));
          const over = ([r, g, b, a]: readonly number[]) =>
            [r!, g!, b!].map((value) => lightOf(value) * (straight ? alphaOf(a!) : 1) + behind * (1 - alphaOf(a!)));
          const out = new Uint8ClampedArray(4 * pixels.length);
          const alpha = { hasAlpha: true, straight, behind: [behind, behind, behind] as const };
          new SeenByTable(plain).seeDifference({ picture: one!, alpha }, { picture: other!, alpha }, gain, out);
          pixels.forEach(([a, b], i) => {
            const theirs = over(b);
            over(a).forEach((light, c) =>
              expect(Math.abs(out[4 * i + c]! - 255 * seeChannel(Math.abs(light - theirs[c]!) * gain, plain))).toBeLessThanOrEqual(1.2),
            );
          });
        },
      ),
      { numRuns: 50 },
    );
  });

  it('marks a difference that is no finite number, in either picture', () => {
    const [sound, odd] = [picture('half', ['R', 'G', 'B'], [0, 0.5, 1]), picture('half', ['R', 'G', 'B'], [0, NaN, 1])];
    const out = new Uint8ClampedArray(4);
    const alpha = { hasAlpha: false, straight: false, behind: null };
    for (const [one, other] of [
      [sound, odd],
      [odd, sound],
    ] as const) {
      new SeenByTable(plain).seeDifference({ picture: one, alpha }, { picture: other, alpha }, 1, out);
      expect([...out]).toEqual([255, 0, 204, 255]);
    }
  });

  it('takes grey for all three, leaves an alpha out where asked to, and has room above the largest half', () => {
    expect(see(picture('half', ['Y'], [0, 1, 0.5]), plain)).toEqual([0, 0, 0, 255, 255, 255, 255, 255, 188, 188, 188, 255]);
    expect(see(picture('half', ['R', 'G', 'B', 'A'], [1, 0, 0.5, 0]), plain)).toEqual([255, 0, 188, 255]);
    expect(see(picture('float', ['R', 'G', 'B'], [1e30, -1e30, 70_000]), plain)).toEqual([255, 0, 255, 255]);
  });

  it('marks what is no finite number, behind an alpha too', () => {
    for (const odd of [NaN, Infinity, -Infinity]) {
      expect(see(picture('half', ['R', 'G', 'B'], [0, odd, 0]), plain)).toEqual([255, 0, 204, 255]);
      expect(see(picture('float', ['R', 'G', 'B', 'A'], [odd, 0, 0, 0.5]), plain, { behind: [0, 0, 0] })).toEqual([255, 0, 204, 255]);
    }
  });
});
