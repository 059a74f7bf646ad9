import type { SentPicture } from '@mint-tally/core';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { tilingOf } from '$lib/view/picture-texture';

const tiling = (width: number, height: number, largest: number) => tilingOf({ width, height } as SentPicture['info'], largest);

it('a picture that the card takes in one piece is one tile of its own size', () => {
  expect(tiling(1920, 1080, 8192)).toEqual({ across: 1, down: 1, width: 1920, height: 1080 });
  expect(tiling(8192, 8192, 8192)).toEqual({ across: 1, down: 1, width: 8192, height: 8192 });
});

it('a larger one is covered by tiles that the card takes, none of which is empty', () => {
  expect(tiling(16_384, 16, 8192)).toEqual({ across: 2, down: 1, width: 8192, height: 16 });
  const side = fc.integer({ min: 1, max: 20_000 });
  fc.assert(
    fc.property(side, side, fc.integer({ min: 64, max: 16_384 }), (width, height, largest) => {
      const { across, down, width: wide, height: high } = tiling(width, height, largest);
      expect(wide <= largest && high <= largest).toBe(true);
      expect(wide * across >= width && high * down >= height).toBe(true);
      expect((across - 1) * wide < width && (down - 1) * high < height).toBe(true);
    }),
  );
});
