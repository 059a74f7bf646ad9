import type { Order, OrderedPass } from '../brief/index.ts';
import { formatFrameRange, FrameSet } from '../ranges/index.ts';
import type { FindingCollector } from './findings.ts';
import { roleByName } from './propose.ts';

/**
 * Passes of one picture that run over other frames than the rest, in a folder for which nobody ordered any: each would be
 * whole by itself. What half of them have at least the others lack.
 */
export function findRangeMismatches(collector: FindingCollector, order: Order): void {
  const passes = order.passes.filter(({ pass }) => roleByName(pass.name) !== 'other');
  if (passes.length < 2) return;
  const counts = new Map<number, number>();
  for (const { frames } of passes) for (const frame of frames) counts.set(frame, (counts.get(frame) ?? 0) + 1);
  const usual = FrameSet.of([...counts].flatMap(([frame, count]) => (2 * count >= passes.length ? [frame] : [])));
  if (usual.isEmpty) return;
  for (const ordered of passes) tellMismatch(collector, ordered, usual);
}

function tellMismatch(collector: FindingCollector, { pass, frames }: OrderedPass, usual: FrameSet): void {
  const lacking = usual.difference(frames);
  const detail = `${formatFrameRange(frames)} where the other passes run over ${formatFrameRange(usual)}`;
  // Frames that it has alone are there, and sound: what is wrong with it is that it ends elsewhere.
  if (!frames.difference(usual).isEmpty && lacking.isEmpty) collector.add('pass-range-mismatch', pass.name, { detail });
  for (const frame of lacking) collector.add('pass-range-mismatch', pass.name, { frame, detail });
}
