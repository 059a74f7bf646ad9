import type { Order } from '../../brief/index.ts';
import type { FileFacts } from '../../inspection/index.ts';
import { FrameSet, parseFrameRange } from '../../ranges/index.ts';
import type { Assignment } from '../assign.ts';
import type { FindingCollector } from '../findings.ts';
import type { ListedFile } from '../listing.ts';
import { findWrongAlpha } from './alpha.ts';
import { findBlankFrames } from './blank.ts';
import { findCopiedPasses } from './copies.ts';
import { findJumps, JUMP_TIMES } from './jumps.ts';
import { findMetadataDrift } from './metadata.ts';
import { findNotNumbers } from './not-numbers.ts';
import { findMissingRegions } from './regions.ts';
import { findLoopJump, findLoopRepeat } from './loop-seam.ts';
import { findFrozenFrames } from './repeats.ts';
import { gatherSeenPasses } from './seen-pass.ts';
import { findOddWindows } from './windows.ts';
import { findOutdatedFrames } from './outdated.ts';
import { findSizeOutliers, SIZE_TIMES } from './sizes.ts';

/** Raises what can only be told of a frame beside its neighbours, or by its pixels. One rule a file. */
export function compareAlongPasses(
  collector: FindingCollector,
  order: Order,
  assignment: Assignment,
  { factsOf, contentOf }: { factsOf(file: ListedFile): FileFacts | null; contentOf?(file: ListedFile): string | null },
): void {
  const { brief } = order;
  const passes = gatherSeenPasses(order, assignment, factsOf, (owner, frame) => collector.has(owner, frame, ['stopgap-frame']));
  for (const pass of passes) {
    findBlankFrames(collector, pass);
    findNotNumbers(collector, pass);
    findMissingRegions(collector, pass);
    findFrozenFrames(collector, pass, brief);
    findLoopRepeat(collector, pass, brief);
    findLoopJump(collector, pass, brief);
    findOddWindows(collector, pass, brief);
    findJumps(collector, pass, brief.checks?.jumpTimes ?? JUMP_TIMES, brief.cuts === undefined ? FrameSet.empty : parseFrameRange(brief.cuts));
    findWrongAlpha(collector, pass);
    findMetadataDrift(collector, pass, brief);
  }
  findCopiedPasses(collector, passes);
  if (contentOf) findOutdatedFrames(collector, passes, contentOf);
  for (const pass of passes) findSizeOutliers(collector, pass, brief.checks?.sizeTimes ?? SIZE_TIMES, (frame) => collector.has(pass.name, frame));
}
