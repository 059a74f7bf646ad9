import { fitNoise, noiseAt, samplesForNoise, type TestRender } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { demoShots, renderFrame, type RenderedFrame } from '../src/index.ts';

const [width, height] = [48, 27];
const view = demoShots[0].view;
const render = (samples: number, seed: number) => renderFrame({ view, time: 0, width, height, samples, seed });

/** Luminance by the design's weights (ITU-R BT.709). */
function luminance({ beauty }: RenderedFrame, pixel: number): number {
  return 0.2126 * beauty[pixel * 4] + 0.7152 * beauty[pixel * 4 + 1] + 0.0722 * beauty[pixel * 4 + 2];
}

/**
 * The true sampling noise: half the variance of two renders with seeds of their own is that of
 * one, and the picture itself cancels. The median over pairs, because a few fireflies rule a mean.
 */
function noiseOf(samples: number): number {
  const variances = [1, 2, 3, 4, 5, 6, 7].map((pair) => {
    const [a, b] = [render(samples, pair * 2 + samples * 100), render(samples, pair * 2 + 1 + samples * 100)];
    let sum = 0;
    for (let pixel = 0; pixel < width * height; pixel++) sum += (luminance(a, pixel) - luminance(b, pixel)) ** 2 / 2;
    return sum / (width * height);
  });
  return Math.sqrt(variances.sort((x, y) => x - y)[3]);
}

describe('the cost of a range', () => {
  const tests: TestRender[] = [4, 16, 64].map((samples) => ({ samples, noise: noiseOf(samples), seconds: null }));
  const fit = fitNoise(tests)!;

  it('predicts the noise of sample counts that the fit did not see', () => {
    for (const samples of [9, 36, 144]) {
      const predicted = noiseAt(fit, samples);
      expect(predicted / noiseOf(samples)).toBeGreaterThan(0.75);
      expect(predicted / noiseOf(samples)).toBeLessThan(1.33);
    }
  });

  it('asks for samples that then reach the target', () => {
    const target = (tests[1].noise! + tests[2].noise!) / 2;
    const samples = samplesForNoise(fit, target)!;
    expect(samples).toBeGreaterThan(16);
    expect(samples).toBeLessThan(64);
    expect(noiseOf(samples) / target).toBeLessThan(1.25);
  });
});
