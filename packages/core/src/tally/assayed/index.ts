import type { AssayedFrame } from '../../assay/index.ts';
import type { Order } from '../../brief/index.ts';
import { FindingCollector, type Finding } from '../findings.ts';
import { writeMessage } from '../messages.ts';
import { findFireflyBursts } from './firefly-bursts.ts';
import { findNoisy } from './noisy.ts';
import { findNoiseShifts } from './shifts.ts';
import { findSumMismatches } from './sums.ts';

/** What an assay's figures say of a shot: one rule a file. */
export function findNoiseTroubles(order: Order, frames: readonly AssayedFrame[]): Finding[] {
  const collector = new FindingCollector(order.brief);
  for (const { pass } of order.passes) {
    const own = frames.filter((frame) => frame.pass === pass.name);
    if (own.length === 0) continue;
    findNoisy(collector, order.brief, own);
    findNoiseShifts(collector, own);
    findFireflyBursts(collector, own);
    findSumMismatches(collector, own);
  }
  return collector.findings(writeMessage);
}
