import type { Order } from '../brief/index.ts';
import { FrameSet, parseFrameRange } from '../ranges/index.ts';
import { concernsPass, findingCodes, type Finding } from '../tally/index.ts';

/** What is left to render of an order. */
export interface Remainder {
  /** Ordered, and not sound: missing, broken or of the wrong kind in at least one pass. */
  readonly render: FrameSet;
  /** Not sound either, but rendering them again is not what mends them: misnamed, there twice, unreadable. */
  readonly decide: FrameSet;
  /** The frames of each pass that are sound, or at least there: what a render would write over. */
  readonly there: ReadonlyMap<string, FrameSet>;
}

/**
 * What a batch should render: exactly what is ordered minus what is sound, and minus what is there
 * under a wrong name, which is to be renamed.
 *
 * @param findings of the newest count; null when nothing has been counted, and all is to be rendered
 */
export function framesToRender(order: Order, findings: readonly Finding[] | null): Remainder {
  const ordered = order.passes.reduce((all, pass) => all.union(pass.frames), order.frames);
  if (findings === null) return { render: ordered, decide: FrameSet.empty, there: new Map(order.passes.map(({ pass }) => [pass.name, FrameSet.empty])) };
  let [render, decide] = [FrameSet.empty, FrameSet.empty];
  for (const finding of findings) {
    if (finding.severity !== 'blocker' || finding.frames === '') continue;
    const frames = parseFrameRange(finding.frames);
    if (isRendered(finding)) render = render.union(frames);
    else decide = decide.union(frames);
  }
  const there = order.passes.map((ordered): [string, FrameSet] => {
    const lacking = findings.filter((finding) => isRendered(finding) && concernsPass(order, ordered, finding));
    return [ordered.pass.name, lacking.reduce((frames, finding) => frames.difference(parseFrameRange(finding.frames)), ordered.frames)];
  });
  return { render: render.intersection(ordered), decide: decide.intersection(ordered).difference(render), there: new Map(there) };
}

/** Whether rendering its frames is what mends a finding. */
function isRendered({ severity, frames, code }: Finding): boolean {
  const { action } = findingCodes[code];
  return severity === 'blocker' && frames !== '' && (action === 'render' || action === 'wait');
}

/**
 * What a render of these frames would write over that is there already, pass by pass; passes with
 * nothing are left out.
 */
export function writtenOver(remainder: Remainder, frames: FrameSet, passes: readonly string[]): { pass: string; frames: FrameSet }[] {
  return passes.map((pass) => ({ pass, frames: frames.intersection(remainder.there.get(pass) ?? FrameSet.empty) })).filter((one) => !one.frames.isEmpty);
}
