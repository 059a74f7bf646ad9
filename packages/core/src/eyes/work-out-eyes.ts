import * as z from 'zod';
import type { Order } from '../brief/index.ts';
import { frameSetSchema, FrameSet } from '../ranges/index.ts';
import { ALL_PARTS, type Sight } from './sight.ts';

/** The content of the files that a pass shows, frame by frame. */
export interface PassContents {
  /** Name of the pass that owns the files. */
  readonly pass: string;
  readonly frames: readonly number[];
  /** The first 16 hexadecimal digits of each file's SHA-256. */
  readonly contents: readonly string[];
}

/** A sight with the pass that was looked at. */
export interface PassSight extends Sight {
  readonly pass: string;
}

/** What has been seen of a pass as its files are now. Each frame that has a file stands in one of the five. */
export const passEyesSchema = z.object({
  pass: z.string(),
  /** The brief wants it watched. */
  wanted: z.boolean(),
  /** Seen whole at the ordered rate and at 100 %. */
  watched: frameSetSchema,
  /** Seen in part at the ordered rate and at 100 %. */
  partly: frameSetSchema,
  /** Seen at the ordered rate, smaller than it is. */
  fitted: frameSetSchema,
  /** Seen standing still only. */
  stepped: frameSetSchema,
  unseen: frameSetSchema,
  /** Bits of the parts that have been watched of every frame that is not watched whole. */
  partsDone: z.number().int(),
});
export type PassEyes = Readonly<z.output<typeof passEyesSchema>>;

/** Whether a pass is to be watched where the brief does not say: the beauty is, and the first where there is none. */
export function isUsuallyWatched(passes: readonly { readonly role?: string | undefined }[], place: number): boolean {
  return passes.some(({ role }) => role === 'beauty') ? passes[place]?.role === 'beauty' : place === 0;
}

/** The passes that somebody has to watch. */
export function passesToWatch({ brief: { passes } }: Order): ReadonlySet<string> {
  return new Set(passes.flatMap((pass, place) => ((pass.watch ?? isUsuallyWatched(passes, place)) ? [pass.name] : [])));
}

/**
 * Works out what has been seen of each pass that is to be watched or that somebody has looked at. A frame whose file
 * is another one by now has not been seen; one without a file cannot be, and stands nowhere.
 *
 * @param contents of the passes that own files
 */
export function workOutEyes(order: Order, contents: readonly PassContents[], sights: readonly PassSight[]): PassEyes[] {
  const wanted = passesToWatch(order);
  const sightsOf = new Map<string, PassSight[]>();
  for (const sight of sights) {
    const own = sightsOf.get(sight.pass);
    if (own) own.push(sight);
    else sightsOf.set(sight.pass, [sight]);
  }
  return order.passes.flatMap(({ pass, frames, owner }) => {
    const own = sightsOf.get(pass.name) ?? [];
    if (!wanted.has(pass.name) && own.length === 0) return [];
    const files = contents.find((one) => one.pass === order.passes[owner]!.pass.name);
    const contentOf = new Map(files?.frames.map((frame, place) => [frame, files.contents[place]!]));
    return [{ pass: pass.name, wanted: wanted.has(pass.name), ...sortFrames(frames, contentOf, own) }];
  });
}

function sortFrames(ordered: FrameSet, contentOf: ReadonlyMap<number, string>, sights: readonly Sight[]): Omit<PassEyes, 'pass' | 'wanted'> {
  const full = new Map<number, number>();
  const [fittedFrames, steppedFrames] = [new Set<number>(), new Set<number>()];
  for (const { frame, content, way, parts } of sights) {
    if (contentOf.get(frame) !== content) continue;
    if (way === 'full') full.set(frame, (full.get(frame) ?? 0) | parts);
    else (way === 'fitted' ? fittedFrames : steppedFrames).add(frame);
  }
  const [watched, partly, fitted, stepped, unseen]: number[][] = [[], [], [], [], []];
  let partsDone = ALL_PARTS;
  for (const frame of ordered) {
    if (!contentOf.has(frame)) continue;
    const parts = full.get(frame) ?? 0;
    if (parts === ALL_PARTS) {
      watched!.push(frame);
      continue;
    }
    partsDone &= parts;
    (parts !== 0 ? partly : fittedFrames.has(frame) ? fitted : steppedFrames.has(frame) ? stepped : unseen)!.push(frame);
  }
  const [all, some, smaller, still, none] = [watched, partly, fitted, stepped, unseen].map((list) => FrameSet.of(list!)) as FiveSets;
  return { watched: all, partly: some, fitted: smaller, stepped: still, unseen: none, partsDone };
}
type FiveSets = [FrameSet, FrameSet, FrameSet, FrameSet, FrameSet];

/** The frames of a pass that are still to be watched. */
export function leftToWatch({ partly, fitted, stepped, unseen }: PassEyes): FrameSet {
  return partly.union(fitted).union(stepped).union(unseen);
}
