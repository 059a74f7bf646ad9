import { thumbnailDistance } from '../../assay/index.ts';
import { DENOISED_NOTE, isRendered, passRoles } from '../../brief/index.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** Passes that agree on this share of their frames are copies of each other as a whole. */
const WHOLE = 0.9;

/**
 * Frames of a pass that hold another pass's picture. Where a few frames do, the wrong pass is the
 * one whose picture departs from its own neighbours; where all do, it is the one that is further
 * from the beauty, or was ordered later.
 */
export function findCopiedPasses(collector: FindingCollector, passes: readonly SeenPass[]): void {
  const lights = passes.filter(({ role, ordered }) => role === 'light' && isRendered(ordered.pass)).length;
  for (const [a, b, equal] of equalPairs(passes)) {
    const frames = isOneLight(a, b) ? equal.filter((frame) => !isDenoised(a, frame) && !isDenoised(b, frame)) : equal;
    if (frames.length === 0) continue;
    // A shot with one light has a light pass like its beauty.
    if (lights === 1 && [a.role, b.role].sort().join() === 'beauty,light') continue;
    const isWhole = frames.length >= WHOLE * Math.min(a.frames.length, b.frames.length);
    // One picture delivered in two formats is meant so.
    if (isWhole && a.role === b.role && a.frames[0]!.header.format !== b.frames[0]!.header.format) continue;
    const wrong = isWhole ? laterOf(a, b) : departing(a, b, frames);
    const right = wrong === a ? b : a;
    const [copies, originals] = [byFrame(wrong), byFrame(right)];
    for (const frame of frames) {
      const [copy, original] = [copies.get(frame)!, originals.get(frame)!];
      collector.add('copied-pass', wrong.name, {
        frame,
        file: copy.file.path,
        detail: right.name,
        evidence: `Pixel by pixel the picture of ${right.name}.`,
        beside: original.file.path,
      });
    }
  }
}

/** Whether two passes are one light, as it was rendered and without its noise, or without it in two ways. */
function isOneLight(a: SeenPass, b: SeenPass): boolean {
  const originOf = ({ name, ordered }: SeenPass) => ordered.pass.denoisedFrom ?? name;
  return originOf(a) === originOf(b);
}

/** Whether a frame's noise was taken out. Where there was none, the picture is what it was. */
const isDenoised = (pass: SeenPass, frame: number) => DENOISED_NOTE in (pass.frames.find((seen) => seen.frame === frame)?.header.metadata ?? {});

/** Pairs of passes with the frames in which their pictures are equal. */
function equalPairs(passes: readonly SeenPass[]): [SeenPass, SeenPass, number[]][] {
  const byPicture = new Map<string, SeenPass[]>();
  const pairs = new Map<string, [SeenPass, SeenPass, number[]]>();
  for (const pass of passes) {
    for (const seen of pass.frames) {
      const key = seen.picture;
      if (key === null || seen.isBlank) continue;
      const place = `${seen.frame} ${key}`;
      const others = byPicture.get(place) ?? [];
      for (const other of others) {
        const pairKey = `${other.index}/${pass.index}`;
        const pair = pairs.get(pairKey) ?? [other, pass, []];
        pair[2].push(seen.frame);
        pairs.set(pairKey, pair);
      }
      byPicture.set(place, [...others, pass]);
    }
  }
  return [...pairs.values()];
}

function laterOf(a: SeenPass, b: SeenPass): SeenPass {
  const [rankA, rankB] = [passRoles.indexOf(a.role), passRoles.indexOf(b.role)];
  return rankA > rankB || (rankA === rankB && a.index > b.index) ? a : b;
}

function departing(a: SeenPass, b: SeenPass, frames: readonly number[]): SeenPass {
  const [departureA, departureB] = [departureOf(a, frames), departureOf(b, frames)];
  return departureA === departureB ? laterOf(a, b) : departureA > departureB ? a : b;
}

/** How far the frames' pictures are from the last one before them that is the pass's own, or the first one after. */
function departureOf(pass: SeenPass, frames: readonly number[]): number {
  const copied = new Set(frames);
  let own: SeenFrame | null = pass.frames.find((seen) => seen.thumbnail && !copied.has(seen.frame)) ?? null;
  let sum = 0;
  for (const seen of pass.frames) {
    if (!copied.has(seen.frame)) own = seen.thumbnail ? seen : own;
    else if (seen.thumbnail && own?.thumbnail) sum += thumbnailDistance(seen.thumbnail, own.thumbnail);
  }
  return sum;
}

function byFrame(pass: SeenPass): Map<number, SeenFrame> {
  return new Map(pass.frames.map((seen) => [seen.frame, seen]));
}
