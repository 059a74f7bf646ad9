import { describe, expect, it } from 'vitest';
import { lightAndNoise, shareOf, trustInLight, weighedBeside } from '../src/kernels/index.ts';

/** Not a whole number of vectors, and more than are worked on together. */
const COUNT = 16_384 + 37;

/** Planes of numbers from 0 to 1. */
const plane = (of: number) => Float32Array.from({ length: COUNT }, (_, i) => (Math.imul(i + 1, 2_654_435_761 + 2 * of) >>> 0) / 2 ** 32);

function expectClose(found: Float32Array, wanted: (i: number) => number): void {
  let most = 0;
  for (let i = 0; i < COUNT; i++) {
    const own = wanted(i);
    most = Math.max(most, Math.abs(found[i]! - own) / (Math.abs(own) + 1e-3));
  }
  expect(most).toBeLessThan(1e-4);
}

describe('noise and trust of pixels', () => {
  const [luminance, albedo, squares, scales, tiles] = [plane(0), plane(1), plane(2).map((value) => value - 0.2), plane(3), plane(4)];
  const { light, texture, deviation } = lightAndNoise({ luminance, albedo, least: 0.3, squares, scales, tiles, ofTile: 0.25 });

  it('are light over texture, which is never too dark, and the root of a variance, which is never negative', () => {
    expectClose(texture, (i) => Math.max(0.3, albedo[i]!));
    expectClose(light, (i) => luminance[i]! / Math.max(0.3, albedo[i]!));
    expectClose(deviation, (i) => Math.sqrt(Math.max(0, 0.75 * squares[i]! * scales[i]! + 0.25 * tiles[i]!)));
  });

  it('are one over twice the variance of light, and known noise is made as large', () => {
    const known = plane(5);
    const before = known.slice();
    expectClose(trustInLight(light, texture, deviation, 1e-2, known), (i) => 1 / (2 * (deviation[i]! / texture[i]!) ** 2 + 1e-2 * light[i]! ** 2));
    expectClose(known, (i) => before[i]! * deviation[i]!);
  });
});

describe('what a neighbour is given', () => {
  const own = { luminance: plane(0), left: plane(1), deviation: plane(2), across: plane(3), down: plane(4) };
  const brought = { grey: plane(5), left: plane(6).map((value) => (value < 0.3 ? -1 : value)), x: plane(7).map((v) => 90 * v), y: plane(8).map((v) => 60 * v) };
  const isSeen = (i: number) => brought.left[i]! >= 0;
  const { apart, capped, worth } = weighedBeside(own, brought, 0.3, 1e-6, 0.2);
  const between = (place: number) => 4 * (place - Math.floor(place)) * (1 - place + Math.floor(place));
  const moved = (i: number) => (0.3 * (between(brought.x[i]!) * own.across[i]! + between(brought.y[i]!) * own.down[i]!)) ** 2;
  const error = (i: number) => brought.left[i]! + own.deviation[i]! ** 2 + 1e-6 + moved(i);

  it('goes by what it differs by, over what noise explains', () => {
    const far = (i: number) => (isSeen(i) ? (brought.grey[i]! - own.luminance[i]!) ** 2 / (own.left[i]! + error(i)) : 0);
    expectClose(apart, far);
    expectClose(capped, (i) => Math.min(0.2, far(i)));
  });

  it('goes by how much it errs beside the frame itself', () => {
    expectClose(worth, (i) => (isSeen(i) ? Math.min(1, (own.left[i]! + own.deviation[i]! ** 2 + 1e-6) / error(i)) : 0));
  });

  it('is the less of what two means allow, nothing where it is not seen, and is summed up with what was refused', () => {
    const [weights, refused] = [new Float32Array(COUNT).fill(1), new Float32Array(COUNT).fill(2)];
    const share = shareOf(
      [
        [apart, { free: 0.1, ghost: 4 }],
        [capped, { free: 0.05, ghost: 2 }],
      ],
      brought,
      worth,
      weights,
      refused,
    );
    const trust = (i: number) => (isSeen(i) ? Math.min(1 / (1 + 4 * Math.max(0, apart[i]! - 0.1)), 1 / (1 + 2 * Math.max(0, capped[i]! - 0.05))) : 0);
    expectClose(share, (i) => trust(i) * worth[i]!);
    expectClose(weights, (i) => 1 + trust(i) * worth[i]!);
    expectClose(refused, (i) => 3 - trust(i));
  });
});
