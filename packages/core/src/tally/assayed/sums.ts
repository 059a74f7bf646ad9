import type { AssayedFrame } from '../../assay/index.ts';
import type { FindingCollector } from '../findings.ts';
import { roughly } from '../../wording.ts';

/** Share of the pixels that may not sum: a hot pixel is told by itself. */
const MOST = 0.001;

/** Beauties that are not the sum of their light passes. */
export function findSumMismatches(collector: FindingCollector, frames: readonly AssayedFrame[]): void {
  for (const { pass, frame, file, sum } of frames) {
    if (sum === null || sum.share <= MOST) continue;
    const percent = roughly(Math.abs(1 - sum.ratio) * 100);
    const how = Number.isFinite(sum.ratio) && Math.abs(1 - sum.ratio) >= 0.001 ? `; the sum has ${percent} % ${sum.ratio < 1 ? 'less' : 'more'} light` : '';
    const { repair } = sum;
    collector.add('sum-mismatch', pass, {
      frame,
      file,
      detail: repair ? `${repair.pass} taken ${roughly(repair.times)} times would repair it` : 'no light alone would repair it',
      evidence: `Not in ${roughly(sum.share * 100)} % of the pixels${how}.`,
    });
  }
}
