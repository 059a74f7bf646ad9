import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenPass } from './seen-pass.ts';

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
  const usualAt = usualSizes(pass);
  frames.forEach((seen, i) => {
    const { frame, file } = seen;
    if (seen.isOdd || seen.isBlank || isTold(frame)) return;
    const usual = usualAt(i);
    if (Math.abs(file.size - usual) < LEAST_DIFFERENCE || (file.size <= usual * times && file.size * times >= usual)) return;
    const factor = file.size > usual ? `${(file.size / usual).toFixed(1)} times` : `1/${(usual / file.size).toFixed(1)} of`;
    collector.add('size-outlier', pass.name, {
      frame,
      file: file.path,
      evidence: `${file.size.toLocaleString('en')} bytes, ${factor} the usual ${Math.round(usual).toLocaleString('en')} around it.`,
    });
  });
}

/** Neighbours' median by place; worked out once for a few frames that stand together. */
const TOGETHER = 6;

function usualSizes({ frames }: SeenPass): (i: number) => number {
  const known = new Map<number, number>();
  return (i) => {
    const group = Math.floor(i / TOGETHER);
    let usual = known.get(group);
    if (usual === undefined) {
      const around = frames.slice(Math.max(0, group * TOGETHER - NEIGHBOURS), (group + 1) * TOGETHER + NEIGHBOURS).filter((other) => !other.isOdd);
      usual = median(around.map((other) => other.file.size));
      known.set(group, usual);
    }
    return usual;
  };
}
