import { parseBrief } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { conversionFor, depthsFor } from '../src/lib/mend/conversion-choices';

describe('what a conversion begins with', () => {
  const brief = parseBrief({
    shot: 'orr_010',
    range: '1-2',
    passes: [
      { name: 'beauty', pattern: 'b.####.exr', depth: 'half', compression: ['dwaa', 'dwab'] },
      { name: 'matte', pattern: 'm.####.TIF', depth: '16' },
      { name: 'film', pattern: 'f.####.dpx', depth: '12' },
    ],
  });
  it('is what the pass is ordered as', () => {
    expect(conversionFor(brief, 'beauty')).toMatchObject({ format: 'exr', depth: 'half', compression: 'dwaa' });
    expect(conversionFor(brief, '')).toMatchObject({ format: 'exr' });
    expect(conversionFor(brief, 'matte')).toMatchObject({ format: 'tiff', depth: '16' });
    // What cannot be written is left as it is.
    expect(conversionFor(brief, 'film')).toMatchObject({ format: 'dpx', depth: 'same' });
  });
  it('offers the depths that a format holds', () => {
    expect(depthsFor('jpeg').map(([depth]) => depth)).toEqual(['same', '8']);
    expect(depthsFor('dpx').map(([depth]) => depth)).toEqual(['same', '8', '10', '16']);
  });
});
