import { isRendered, type Order, type OrderedPass } from '../brief/index.ts';
import { formatFrameRange, FrameSet } from '../ranges/index.ts';
import { concernsPass, isMendedByRendering, type Finding } from '../tally/index.ts';

/** What is left to render of an order. */
export interface Remainder {
  /** Ordered, and not sound: missing, broken or of the wrong kind in at least one pass. */
  readonly render: FrameSet;
  /** Not sound either, but rendering them again is not what mends them: misnamed, there twice, unreadable. */
  readonly decide: FrameSet;
  /** What each pass lacks; a pass that lives in another's files lacks what these lack. */
  readonly lacking: ReadonlyMap<string, FrameSet>;
  /** The frames of each pass that are sound, or at least there: what a render would write over. */
  readonly there: ReadonlyMap<string, FrameSet>;
  /** What passes lack that no renderer writes, since they are denoised from others; passes that lack nothing are left out. */
  readonly denoise: ReadonlyMap<string, FrameSet>;
}

/**
 * What a batch should render: exactly what is ordered of what a renderer writes, minus what is sound, and minus what is there
 * under a wrong name, which is to be renamed.
 *
 * @param findings of the newest count; null when nothing has been counted, and all is to be rendered
 */
export function framesToRender(order: Order, findings: readonly Finding[] | null): Remainder {
  const [passes, denoised] = [order.passes.filter(({ pass }) => isRendered(pass)), order.passes.filter(({ pass }) => !isRendered(pass))];
  const ordered = passes.reduce((all, pass) => all.union(pass.frames), order.frames);
  const blockers = (findings ?? []).filter(({ severity, frames }) => severity === 'blocker' && !frames.isEmpty);
  const toMake = blockers.filter(isMendedByMaking);
  const decided = blockers.filter((finding) => !isMendedByMaking(finding) && !denoised.some(({ pass }) => pass.name === finding.pass));
  const lackOf = (pass: OrderedPass): [string, FrameSet] => [
    pass.pass.name,
    findings === null ? pass.frames : framesOf(toMake.filter((finding) => concernsPass(order, pass, finding))).intersection(pass.frames),
  ];
  const lacking = new Map(passes.map(lackOf));
  const render = [...lacking.values()].reduce((all, frames) => all.union(frames), FrameSet.empty);
  return {
    render: findings === null ? ordered : render,
    decide: framesOf(decided).intersection(ordered).difference(render),
    lacking,
    there: new Map(passes.map((pass): [string, FrameSet] => [pass.pass.name, pass.frames.difference(lacking.get(pass.pass.name)!)])),
    denoise: new Map(denoised.map(lackOf).filter(([, frames]) => !frames.isEmpty)),
  };
}

function framesOf(findings: readonly Finding[]): FrameSet {
  return findings.reduce((all, { frames }) => all.union(frames), FrameSet.empty);
}

/** Whether making its frames is what mends a finding, or does already. */
function isMendedByMaking({ code }: Finding): boolean {
  return isMendedByRendering(code) || code === 'coming-frame';
}

/** Passes that lack the same frames, and can be rendered together without writing over any that is good. */
export interface RenderGroup {
  readonly passes: readonly string[];
  readonly frames: FrameSet;
}

/**
 * Sorts what is left to render into groups of passes that lack the same, the one with most frames first: missing
 * normals cost no good frame of the beauty. Where the renderer writes all passes of a frame at once they are one group.
 */
export function renderGroups(order: Order, { lacking, render }: Remainder): RenderGroup[] {
  if (render.isEmpty) return [];
  if (order.brief.allPassesAtOnce) return [{ passes: [...lacking.keys()], frames: render }];
  // Passes in one file are written together.
  const ofOwner = order.passes.map(({ owner }) =>
    order.passes.reduce((all, pass) => (pass.owner === owner ? all.union(lacking.get(pass.pass.name) ?? FrameSet.empty) : all), FrameSet.empty),
  );
  const groups = new Map<string, { passes: string[]; frames: FrameSet }>();
  order.passes.forEach(({ pass }, index) => {
    const frames = ofOwner[index]!;
    if (frames.isEmpty || !lacking.has(pass.name)) return;
    const key = formatFrameRange(frames);
    const group = groups.get(key);
    if (group) group.passes.push(pass.name);
    else groups.set(key, { passes: [pass.name], frames });
  });
  return [...groups.values()].sort((a, b) => b.frames.size - a.frames.size);
}

/**
 * What a render of these frames would write over that is there already, pass by pass; passes with
 * nothing are left out.
 */
export function writtenOver(remainder: Remainder, frames: FrameSet, passes: readonly string[]): { pass: string; frames: FrameSet }[] {
  return passes.map((pass) => ({ pass, frames: frames.intersection(remainder.there.get(pass) ?? FrameSet.empty) })).filter((one) => !one.frames.isEmpty);
}
