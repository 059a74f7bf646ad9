import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import { isBlank, type SeenPass } from './seen-pass.ts';

/** A file this many times larger or smaller than those around is odd; the brief may say otherwise. */
export const SIZE_TIMES = 3;
const NEIGHBOURS = 12;
const FEWEST_FRAMES = 5;
/** Small files differ by their headers alone. */
const LEAST_DIFFERENCE = 4096;

/**
 * Files whose size is far from that of the frames around.
 *
 * @param isTold whether something else that was found of the frame explains its size
 */
export function findSizeOutliers(collector: FindingCollector, pass: SeenPass, times: number, isTold: (frame: number) => boolean): void {
  if (!pass.ownsFiles || pass.frames.length < FEWEST_FRAMES) return;
  const { frames } = pass;
  frames.forEach((seen, i) => {
    const { frame, file } = seen;
    if (seen.isOdd || isBlank(seen) || isTold(frame)) return;
    const around = frames.slice(Math.max(0, i - NEIGHBOURS), i + NEIGHBOURS + 1).filter((other) => other.frame !== frame && !other.isOdd);
    if (around.length < FEWEST_FRAMES - 1) return;
    const usual = median(around.map((other) => other.file.size));
    if (Math.abs(file.size - usual) < LEAST_DIFFERENCE || (file.size <= usual * times && file.size * times >= usual)) return;
    const factor = file.size > usual ? `${(file.size / usual).toFixed(1)} times` : `1/${(usual / file.size).toFixed(1)} of`;
    collector.add('size-outlier', pass.name, {
      frame,
      file: file.path,
      evidence: `${file.size.toLocaleString('en')} bytes, ${factor} the usual ${Math.round(usual).toLocaleString('en')} around it.`,
    });
  });
}
