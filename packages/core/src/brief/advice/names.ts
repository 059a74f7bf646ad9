import { formatNamePattern, framePath, unsafeNameReason } from '../../naming/index.ts';
import type { Order, OrderedPass } from '../order.ts';
import { advice, type Advice, type AdviceRule } from './advice.ts';

/** A number with more digits than the padding has does not sort behind the shorter ones. */
export const paddingRule: AdviceRule = (order) =>
  order.passes.flatMap(({ pattern, frames }, index) => {
    const ends = [frames.first, frames.last].flatMap((frame) => (frame === undefined ? [] : [frame]));
    const widest = ends.reduce((most, frame) => (String(Math.abs(frame)).length > String(Math.abs(most)).length ? frame : most), 0);
    const digits = String(Math.abs(widest)).length;
    // One hash stands for "not padded", which nobody takes for a promise of one digit.
    if (pattern.padding.width < 2 || digits <= pattern.padding.width) return [];
    const sum = `${widest} has ${digits} digits; ${formatNamePattern(pattern)} has room for ${pattern.padding.width}`;
    return [advice('padding-overflow', `passes.${index}.pattern`, 'The last frames have more digits than the padding: they sort before the first.', sum)];
  });

/** Two passes may share files only as layers with channels of their own. */
export const collisionRule: AdviceRule = (order) => {
  const found: Advice[] = [];
  order.passes.forEach((later, index) => {
    const earlier = order.passes.slice(0, index).find((candidate) => writesSameFile(candidate, later) && !areLayers(candidate, later));
    if (!earlier) return;
    const name = framePath(later.pattern, later.frames.first ?? 1);
    found.push(
      advice(
        'name-collision',
        `passes.${index}.pattern`,
        `${earlier.pass.name} and ${later.pass.name} write the same file, and the later one wins.`,
        `both name ${name}`,
      ),
    );
  });
  return found;
};

function writesSameFile(a: OrderedPass, b: OrderedPass): boolean {
  const shared = a.frames.intersection(b.frames);
  // Paddings that differ may still meet in the last frames. Names that differ only in case are one
  // file on some systems.
  return [shared.first, shared.last].some(
    (frame) => frame !== undefined && framePath(a.pattern, frame).toLowerCase() === framePath(b.pattern, frame).toLowerCase(),
  );
}

function areLayers(a: OrderedPass, b: OrderedPass): boolean {
  if (framePath(a.pattern, 0) !== framePath(b.pattern, 0)) return false;
  const [channelsA, channelsB] = [a.pass.channels, b.pass.channels];
  return channelsA !== undefined && channelsB !== undefined && !channelsA.some((channel) => channelsB.includes(channel));
}

export const unsafeRule: AdviceRule = (order: Order) =>
  order.passes.flatMap(({ pattern, frames }, index) => {
    const path = framePath(pattern, frames.first ?? 1);
    const part = path.split('/').find((name) => unsafeNameReason(name) !== null);
    if (part === undefined) return [];
    return [advice('unsafe-name', `passes.${index}.pattern`, `${part} will not survive on every system.`, unsafeNameReason(part)!)];
  });
