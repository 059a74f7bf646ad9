import { describe, expect, it } from 'vitest';
import { beautyPath, FIRST, LAST, movingBrief, movingFrame, movingShot } from './moving-shot.ts';
import { contentOf, count, short } from './virtual-folder.ts';

describe('frames without their noise', () => {
  const cleanPath = (frame: number) => `beauty_denoised/beauty_denoised.${frame}.exr`;
  const clean = { ...movingBrief.passes[0], name: 'beauty_denoised', pattern: 'beauty_denoised/beauty_denoised.####.exr', denoisedFrom: 'beauty' };
  const brief = { ...movingBrief, passes: [...movingBrief.passes, clean] };
  const denoised = () => {
    const folder = movingShot();
    for (let frame = FIRST; frame <= LAST; frame++) {
      const metadata = { denoised: 'strength middle (1)', denoisedSource: contentOf(folder[beautyPath(frame)]!) };
      folder[cleanPath(frame)] = movingFrame({ at: (frame - FIRST + 4) / 32, seed: frame, noise: 0.001, metadata });
    }
    return folder;
  };

  it('are told where their original is another one now', () => {
    const folder = denoised();
    expect(short(count(folder, brief))).toEqual([]);
    folder[beautyPath(1012)] = movingFrame({ at: (1012 - FIRST + 4) / 32, seed: 99 });
    const { findings } = count(folder, brief);
    expect(findings).toMatchObject([{ code: 'outdated-frame', pass: 'beauty_denoised', severity: 'warning', files: [cleanPath(1012)] }]);
    expect(findings[0]!.evidence[0]).toMatchObject({ file: cleanPath(1012), beside: beautyPath(1012) });
  });

  it('are left alone where nothing is known of the original, or of what they were made of', () => {
    const folder = denoised();
    delete folder[beautyPath(1012)];
    folder[cleanPath(1013)] = movingFrame({ at: 16 / 32, seed: 13, noise: 0.001 });
    expect(short(count(folder, brief))).toEqual(['missing-frame beauty 1012']);
    folder[beautyPath(1012)] = movingFrame({ at: 15 / 32, seed: 99 });
    expect(short(count(folder, brief, { level: 'headers' }))).toEqual([]);
  });
});
