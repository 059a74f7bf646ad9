import type { AssayedFrame } from '../../assay/index.ts';
import type { FindingCollector } from '../findings.ts';

/** Share of the pixels that may not sum: a hot pixel is told by itself. */
const MOST = 0.001;

/** Beauties that are not the sum of their light passes. */
export function findSumMismatches(collector: FindingCollector, frames: readonly AssayedFrame[]): void {
  for (const { pass, frame, file, sum } of frames) {
    if (sum === null || sum.share <= MOST) continue;
    const percent = (Math.abs(1 - sum.ratio) * 100).toPrecision(2);
    const how = Number.isFinite(sum.ratio) && Math.abs(1 - sum.ratio) >= 0.001 ? `; the sum has ${percent} % ${sum.ratio < 1 ? 'less' : 'more'} light` : '';
    const { repair } = sum;
    collector.add('sum-mismatch', pass, {
      frame,
      file,
      detail: repair ? `${repair.pass} taken ${repair.times.toPrecision(2)} times would repair it` : 'no light alone would repair it',
      evidence: `Not in ${(sum.share * 100).toPrecision(2)} % of the pixels${how}.`,
    });
  }
}
