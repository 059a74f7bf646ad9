import type { Order } from '../brief/index.ts';
import { FrameSet, parseFrameRange } from '../ranges/index.ts';
import { findingCodes, type Finding } from '../tally/index.ts';

/** What is left to render of an order. */
export interface Remainder {
  /** Ordered, and not sound: missing, broken or of the wrong kind in at least one pass. */
  readonly render: FrameSet;
  /** Not sound either, but rendering them again is not what mends them: misnamed, there twice, unreadable. */
  readonly decide: FrameSet;
}

/**
 * What a batch should render: exactly what is ordered minus what is sound, and minus what is there
 * under a wrong name, which is to be renamed.
 *
 * @param findings of the newest count; null when nothing has been counted, and all is to be rendered
 */
export function framesToRender(order: Order, findings: readonly Finding[] | null): Remainder {
  const ordered = order.passes.reduce((all, pass) => all.union(pass.frames), order.frames);
  if (findings === null) return { render: ordered, decide: FrameSet.empty };
  let [render, decide] = [FrameSet.empty, FrameSet.empty];
  for (const finding of findings) {
    if (finding.severity !== 'blocker' || finding.frames === '') continue;
    const frames = parseFrameRange(finding.frames);
    const { action } = findingCodes[finding.code];
    if (action === 'render' || action === 'wait') render = render.union(frames);
    else decide = decide.union(frames);
  }
  return { render: render.intersection(ordered), decide: decide.intersection(ordered).difference(render) };
}
