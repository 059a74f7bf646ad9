import * as z from 'zod';
import type { Order } from '../brief/index.ts';
import { baseName, framePath, matchFrameName } from '../naming/index.ts';
import { FrameSet } from '../ranges/index.ts';
import { assignFiles, type ListedFile } from '../tally/index.ts';

/** Which of several different files for one frame is taken. */
export const mergeRules = ['newer', 'samples', 'owner'] as const;
export type MergeRule = (typeof mergeRules)[number];

/** How files come into the shot's folder. */
export const mergeWays = ['copy', 'move', 'link'] as const;
export type MergeWay = (typeof mergeWays)[number];

/** A folder that is merged; the shot's own stands first, with index 0. */
export interface MergeSource {
  readonly name: string;
  readonly files: readonly ListedFile[];
}

/** What must be known of files that claim the same frame. */
export interface MergeFacts {
  /** Checksum of the whole file. */
  readonly sha256: string;
  /** Null where the file names none. */
  readonly samples: number | null;
}

/** A file of a source that stands for a frame of a pass. */
export interface MergeCandidate {
  /** Index into the sources. */
  readonly source: number;
  readonly path: string;
  readonly size: number;
  readonly modified: number;
}

/** All files that stand for one frame of one pass. */
export interface MergeClaim {
  readonly pass: string;
  readonly frame: number;
  /** Where the file goes, relative to the shot's folder. */
  readonly target: string;
  readonly candidates: readonly MergeCandidate[];
}

/**
 * Finds which files of which sources stand for which ordered frame. Names that differ in padding,
 * case or version are understood as a tally understands them; so is a pass's sequence that was
 * copied without its folder.
 */
export function claimForMerge(
  order: Order,
  sources: readonly MergeSource[],
  now: number,
): { claims: MergeClaim[]; strays: { source: number; path: string }[] } {
  const claims = new Map<string, { pass: string; frame: number; target: string; candidates: MergeCandidate[] }>();
  const strays: { source: number; path: string }[] = [];
  sources.forEach((source, index) => {
    const add = (pass: number, frame: number, { path, size, modified }: ListedFile) => {
      const { pass: entry, pattern } = order.passes[pass]!;
      const target = framePath(pattern, frame);
      const claim = claims.get(target) ?? { pass: entry.name, frame, target, candidates: [] };
      claim.candidates.push({ source: index, path, size, modified });
      claims.set(target, claim);
    };
    const found = assignFiles(order, source.files, now);
    for (const byFrame of found.claims) {
      for (const list of byFrame.values()) for (const claim of list) if (claim.relation !== 'format') add(claim.pass, claim.frame, claim.file);
    }
    const byPath = new Map(source.files.map((file) => [file.path, file]));
    const rest = [...found.unplanned.flatMap((sequence) => sequence.files.map(({ path }) => path)), ...found.strays.map(({ path }) => path)];
    for (const path of rest) {
      const place = placeByName(order, baseName(path));
      if (place) add(place.pass, place.frame, byPath.get(path)!);
      // What lies about in the shot's own folder is the tally's to tell.
      else if (index > 0) strays.push({ source: index, path });
    }
  });
  const sorted = [...claims.values()].sort((a, b) => (a.target < b.target ? -1 : 1));
  return { claims: sorted, strays };
}

/** The one pass whose names a bare file name bears; null when none or several do. */
function placeByName(order: Order, name: string): { pass: number; frame: number } | null {
  const places = order.passes.flatMap(({ pattern, frames, owner }, pass) => {
    const match = owner === pass ? matchFrameName(pattern, name) : null;
    return match && frames.has(match.frame) ? [{ pass, frame: match.frame }] : [];
  });
  return places.length === 1 ? places[0]! : null;
}

const choiceSchema = z.object({ source: z.number().int().min(0), path: z.string() });

/** What a merge does with one frame of one pass. */
export const mergeStepSchema = z.object({
  pass: z.string(),
  frame: z.number().int(),
  target: z.string(),
  /** What comes into place; null when the shot's own file stays. */
  from: choiceSchema.nullable(),
  size: z.number(),
  /** Whether a file of the shot's own folder makes room. */
  replaces: z.boolean(),
  /** Whether the name changes on the way, as with another padding. */
  renamed: z.boolean(),
  /** The same bytes from other sources; they are skipped. */
  same: z.array(choiceSchema),
  /** Other bytes for the same frame; empty when there is nothing to choose. */
  others: z.array(choiceSchema.extend({ size: z.number(), modified: z.number(), samples: z.number().nullable() })),
  /** Why this one was chosen of several. */
  why: z.string(),
});
export type MergeStep = z.output<typeof mergeStepSchema>;

export interface MergePlan {
  readonly steps: readonly MergeStep[];
  /** Ordered frames that no source has, by pass; passes that lack none are left out. */
  readonly gaps: readonly { readonly pass: string; readonly frames: FrameSet }[];
}

/** What chooses between different files. */
export interface MergeChoice {
  readonly rule: MergeRule;
  /** The source that a frame was given to, for the rule `owner`; null where nobody was. */
  readonly ownerOf: (frame: number) => number | null;
  /** What somebody chose by hand, by target. */
  readonly byHand: ReadonlyMap<string, { readonly source: number; readonly path: string }>;
}

/**
 * Decides for every frame which file is taken.
 *
 * @param factsOf of files that share their frame with others; others are not asked about
 */
export function planMerge(order: Order, claims: readonly MergeClaim[], factsOf: (candidate: MergeCandidate) => MergeFacts, choice: MergeChoice): MergePlan {
  const steps = claims.map((claim) => planStep(claim, factsOf, choice));
  const have = new Set(claims.map(({ target }) => target));
  const gaps = order.passes
    .filter((pass, index) => pass.owner === index)
    .map(({ pass, pattern, frames }) => ({ pass: pass.name, frames: FrameSet.of([...frames].filter((frame) => !have.has(framePath(pattern, frame)))) }))
    .filter(({ frames }) => !frames.isEmpty);
  return { steps, gaps };
}

function planStep({ pass, frame, target, candidates }: MergeClaim, factsOf: (candidate: MergeCandidate) => MergeFacts, choice: MergeChoice): MergeStep {
  const { chosen, why } = candidates.length === 1 ? { chosen: candidates[0]!, why: '' } : choose(candidates, frame, target, factsOf, choice);
  const isSame = (other: MergeCandidate) => factsOf(other).sha256 === factsOf(chosen).sha256;
  const rest = candidates.filter((other) => other !== chosen);
  // What lies in the shot's own folder stays, misnamed or not: renaming is for mending.
  const isOwn = ({ source }: MergeCandidate) => source === 0;
  const different = rest.filter((other) => !isSame(other));
  return {
    pass,
    frame,
    target,
    // The same bytes in their place already are as good as any.
    from: isOwn(chosen) || rest.some((other) => isOwn(other) && isSame(other)) ? null : { source: chosen.source, path: chosen.path },
    size: chosen.size,
    replaces: !isOwn(chosen) && different.some((other) => isOwn(other) && other.path === target),
    renamed: baseName(chosen.path) !== baseName(target),
    same: rest.filter(isSame).map(({ source, path }) => ({ source, path })),
    others: different.map((other) => {
      const { source, path, size, modified } = other;
      return { source, path, size, modified, samples: factsOf(other).samples };
    }),
    why,
  };
}

function choose(
  candidates: readonly MergeCandidate[],
  frame: number,
  target: string,
  factsOf: (candidate: MergeCandidate) => MergeFacts,
  { rule, ownerOf, byHand }: MergeChoice,
): { chosen: MergeCandidate; why: string } {
  const hand = byHand.get(target);
  const handed = hand && candidates.find(({ source, path }) => source === hand.source && path === hand.path);
  if (handed) return { chosen: handed, why: 'chosen by hand' };
  if (new Set(candidates.map((candidate) => factsOf(candidate).sha256)).size === 1) return { chosen: candidates[0]!, why: 'the same bytes' };
  const newest = best(candidates, ({ modified }) => modified);
  if (rule === 'samples') {
    const most = best(candidates, (candidate) => factsOf(candidate).samples ?? 0);
    const [top, next] = [...candidates].map((candidate) => factsOf(candidate).samples ?? 0).sort((a, b) => b - a);
    if (top > next) return { chosen: most, why: `more samples: ${top}` };
    return { chosen: newest, why: 'as many samples; newer' };
  }
  if (rule === 'owner') {
    const owner = ownerOf(frame);
    const own = owner === null ? undefined : candidates.find(({ source }) => source === owner);
    if (own) return { chosen: own, why: 'from the machine that the frame was given to' };
    return { chosen: newest, why: 'given to none of them; newer' };
  }
  return { chosen: newest, why: 'newer' };
}

/** The candidate with the highest value; the first of equals. */
function best(candidates: readonly MergeCandidate[], value: (candidate: MergeCandidate) => number): MergeCandidate {
  return candidates.reduce((most, candidate) => (value(candidate) > value(most) ? candidate : most));
}
