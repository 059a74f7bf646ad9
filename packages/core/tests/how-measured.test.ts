import { describe, expect, it } from 'vitest';
import { sayMeasured, sayOfFigures } from '../src/index.ts';

describe('what is said with figures', () => {
  const plain = { heldSeeds: false, wideFilter: false, vectors: null };

  it('tells of vectors that were found, taken, or said, and of none', () => {
    const withVectors = (residual: number | null, isSaid: boolean) => sayOfFigures({ ...plain, vectors: { says: 'in pixels', residual, isSaid } });
    expect(withVectors(0.3, false)).toBe('Motion vectors are in pixels.');
    expect(withVectors(null, false)).toBe('Motion vectors are taken to be in pixels.');
    expect(withVectors(null, true)).toBe('Motion vectors are, as the brief says, in pixels.');
    expect(sayOfFigures(plain)).toMatch(/^Without motion vectors .* what stands still\.$/);
  });

  it('tells of held seeds and of a wide filter', () => {
    expect(sayOfFigures({ ...plain, heldSeeds: true })).toMatch(/^Seeds are held .* less sure\. Without/);
    expect(sayOfFigures({ ...plain, wideFilter: true })).toMatch(/^The pixel filter joins .* allowed for\. Without/);
  });

  it('calls an upper bound what is one, by the frame in the middle', () => {
    const measured = (...by: readonly ('halves' | 'neighbours' | 'features' | 'picture')[]) => sayMeasured(by.map((one) => ({ by: one })));
    expect(measured('features')).toMatch(/upper bound/);
    expect(measured('picture')).toMatch(/upper bound/);
    expect(measured('features', 'neighbours', 'features')).toBe('by neighbours in time');
    expect(measured('halves')).toMatch(/exact/);
  });
});
