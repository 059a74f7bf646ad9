import { isRendered, type Order } from '../brief/index.ts';
import type { PassContents } from '../eyes/index.ts';
import { FrameSet } from '../ranges/index.ts';
import { frameStates, type Lane } from '../tally/index.ts';
import { isAmong } from './plans/wanted.ts';

/** Frames that somebody wants rendered again. */
export interface ListedFrames {
  /** Empty for all passes. */
  readonly pass: string;
  readonly frames: FrameSet;
  /** What they held when they were listed, by pass and frame; nothing where there was no file. */
  readonly contents: Readonly<Record<string, Readonly<Record<string, string>>>>;
}

/** How far frames of a pass that stand on the list have come. */
export interface ListedPass {
  readonly pass: string;
  /** Those that hold what they held, or nothing, or what is not sound. */
  readonly left: FrameSet;
  /** Those that hold something new that nothing stops. */
  readonly back: FrameSet;
  /** Those of them that are to be looked at. */
  readonly odd: FrameSet;
}

const STOPPED: ReadonlySet<string> = new Set([frameStates.missing, frameStates.broken, frameStates.wrong, frameStates.later]);

/** What the frames of a listing hold now, to be kept with it. Passes that are denoised from others are not rendered. */
export function contentsFor(order: Order, pass: string, frames: FrameSet, contents: readonly PassContents[]): ListedFrames['contents'] {
  const own = order.passes.flatMap((one, index) =>
    one.owner === index && isRendered(one.pass) && isAmong(pass === '' ? [] : [pass], order, index) ? [one.pass.name] : [],
  );
  return Object.fromEntries(
    own.map((name) => {
      const known = contents.find((one) => one.pass === name);
      const held = (known?.frames ?? []).flatMap((frame, at) => (frames.has(frame) ? [[frame, known!.contents[at]!] as const] : []));
      return [name, Object.fromEntries(held)];
    }),
  );
}

/**
 * How far a listing has come: a frame is back when it holds something else than it did and nothing stops it.
 *
 * @param lanes the ribbon's, by the newest count
 */
export function followListed(order: Order, listed: ListedFrames, lanes: readonly Lane[], contents: readonly PassContents[]): ListedPass[] {
  return Object.entries(listed.contents).flatMap(([pass, before]): ListedPass[] => {
    const index = order.passes.findIndex((ordered) => ordered.pass.name === pass);
    // A pass that the brief does not order any more wants nothing.
    if (index < 0) return [];
    const { frames } = order.passes[index]!;
    const lane = lanes.find((one) => one.pass === pass);
    const known = contents.find((one) => one.pass === pass);
    const now = new Map(known?.frames.map((frame, at) => [frame, known.contents[at]!]));
    const wanted = [...listed.frames.intersection(frames)];
    const letterOf = (frame: number) => lane?.states[frames.indexOf(frame)] ?? frameStates.later;
    const isBack = (frame: number) => now.has(frame) && now.get(frame) !== before[String(frame)] && !STOPPED.has(letterOf(frame));
    const back = FrameSet.of(wanted.filter(isBack));
    return [{ pass, back, left: FrameSet.of(wanted).difference(back), odd: FrameSet.of([...back].filter((frame) => letterOf(frame) === frameStates.odd)) }];
  });
}
