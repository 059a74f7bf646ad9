import type { AssayedFrame } from '../../assay/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';

/** So many times what the pass usually has, and this many beyond it. */
const TIMES = 3;
const MORE = 8;

/** Frames with many more fireflies than the frames of their pass usually have. */
export function findFireflyBursts(collector: FindingCollector, frames: readonly AssayedFrame[]): void {
  const usual = median(frames.map(({ fireflies }) => fireflies));
  for (const { pass, frame, file, fireflies } of frames) {
    if (fireflies < TIMES * usual + MORE) continue;
    collector.add('fireflies', pass, { frame, file, detail: `usually there are ${usual}`, evidence: `${fireflies} fireflies.` });
  }
}
