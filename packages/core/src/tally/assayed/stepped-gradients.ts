import type { AssayedFrame } from '../../assay/index.ts';
import type { FindingCollector } from '../findings.ts';
import { roughly } from '../../wording.ts';

/** Share of the picture that has to stand in steps before it is told. */
const LEAST = 0.02;

/** Pictures of 8 bits whose soft gradients show their steps. */
export function findSteppedGradients(collector: FindingCollector, frames: readonly AssayedFrame[]): void {
  for (const { pass, frame, file, banded } of frames) {
    if (banded === null || banded < LEAST) continue;
    collector.add('banding', pass, { frame, file, evidence: `In ${roughly(banded * 100)} % of the picture.` });
  }
}
