import type { AssayedFrame, PassFigures } from '../../assay/index.ts';
import { isRendered, type Order } from '../../brief/index.ts';
import { FindingCollector, type Finding } from '../findings.ts';
import { writeMessage } from '../messages.ts';

import { findOtherAlphas } from './alphas.ts';
import { findMatteGaps, findOddValues, findVectors, findVectorsOfStill } from './beside-beauty.ts';
import { findLackingDepth, findOtherScale, findTurnedDepth } from './depths.ts';
import { findFireflyBursts } from './firefly-bursts.ts';
import { findFlicker } from './flicker.ts';
import { findNoisy } from './noisy.ts';
import { findNoiseShifts } from './shifts.ts';
import { findOffsets } from './offsets.ts';
import { findSteppedGradients } from './stepped-gradients.ts';
import { findSumMismatches } from './sums.ts';
import { findOtherWindows } from './windows.ts';

/** What an assay's figures say of a shot: one rule a file. */
export function findAssayTroubles(order: Order, frames: readonly AssayedFrame[], passes: readonly PassFigures[]): Finding[] {
  const collector = new FindingCollector(order.brief);
  const isBeauty = ({ pass }: Order['passes'][number]) => pass.role === 'beauty' && isRendered(pass);
  const beauty = order.passes.find(isBeauty)?.pass.name;
  const cleaned = new Set(order.passes.flatMap(({ pass }) => pass.denoisedFrom ?? []));
  for (const { pass } of [...order.passes.filter(isBeauty), ...order.passes.filter((one) => !isBeauty(one))]) {
    const beside = passes.filter((figures) => figures.pass === pass.name);
    findOddValues(collector, beside);
    findTurnedDepth(collector, beside, passes);
    findLackingDepth(collector, beside);
    findOtherScale(collector, beside);
    findOtherAlphas(collector, beside);
    // What is ordered so is meant so.
    if (pass.resolution === undefined) findOtherWindows(collector, beside);
    findVectors(collector, beside, passes);
    findVectorsOfStill(collector, beside);
    const own = frames.filter((frame) => frame.pass === pass.name);
    if (own.length === 0) continue;
    // What is handed over without its noise is held against the target, not what it was made from.
    if (!cleaned.has(pass.name)) findNoisy(collector, order.brief, own);
    findNoiseShifts(collector, own, pass.role === 'light' ? frames.filter((frame) => frame.pass === beauty) : []);
    findFlicker(collector, own);
    findFireflyBursts(collector, own);
    findSteppedGradients(collector, own);
    findSumMismatches(collector, own);
  }
  findMatteGaps(collector, passes);
  findOffsets(collector, passes);
  return collector.findings(writeMessage);
}
