import type { Brief, BriefPass, PassRole } from '../brief/index.ts';
import { passRoles, workOutOrder } from '../brief/index.ts';
import { inReadingOrder, isPictureExtension, type FrameHeader, type SampleDepth } from '../formats/index.ts';
import type { FileFacts } from '../inspection/index.ts';
import { baseName, extensionOf, formatNamePattern, groupIntoSequences, relateNames, type FoundSequence } from '../naming/index.ts';
import { formatFrameRange, FrameSet } from '../ranges/index.ts';
import { assignExactly, assignFiles, filesToInspect } from './assign.ts';
import { intendedPath, type ListedFile } from './listing.ts';

/** A sequence that is taken for a pass, with the frames that it should have. */
export interface ProposedPass {
  readonly sequence: FoundSequence;
  readonly first: number;
  readonly last: number;
}

/**
 * Picks the sequences of a listing that are passes. A small sequence whose name is nearly that of
 * a larger one and whose frames lie in the larger one's gaps is taken for misnamed frames of it.
 * Single files are passes only where there is nothing else.
 */
export function findPasses(listing: readonly ListedFile[]): ProposedPass[] {
  // What is no picture is left out before it is taken apart: there may be a million of it.
  const paths = listing.map((file) => file.path).filter((path) => isPictureExtension(extensionOf(path)) && intendedPath(path) === null);
  const { sequences } = groupIntoSequences(paths);
  const hasRuns = sequences.some((sequence) => sequence.files.length > 1);
  const passes: PassInMaking[] = [];
  const hosts: PassInMaking[] = [];
  for (const sequence of sequences) {
    const frames = sequence.files.map((file) => file.frame);
    const [first, last] = [frames[0]!, frames[frames.length - 1]!];
    const host = hosts.find((pass) => liesInGaps(sequence, first, last, pass));
    if (host) {
      host.first = Math.min(host.first, first);
      host.last = Math.max(host.last, last);
      for (const frame of frames) host.frames.add(frame);
    } else if (frames.length > 1 || !hasRuns) {
      const pass = { sequence, frames: new Set(frames), first, last };
      passes.push(pass);
      // The largest come first; a single frame holds no gap for another.
      if (frames.length > 1 && hosts.length < MOST_HOSTS) hosts.push(pass);
    }
  }
  return passes.map(({ sequence, first, last }) => ({ sequence, first, last }));
}

/** So many of the largest passes are looked at for each smaller sequence that may be a part of one. */
const MOST_HOSTS = 100;

interface PassInMaking {
  readonly sequence: FoundSequence;
  readonly frames: Set<number>;
  first: number;
  last: number;
}

function liesInGaps(
  sequence: FoundSequence,
  first: number,
  last: number,
  pass: { sequence: FoundSequence; frames: ReadonlySet<number>; first: number; last: number },
): boolean {
  if (sequence.files.length * 2 > pass.frames.size) return false;
  const relation = relateNames(sequence, pass.sequence);
  if (!relation) return false;
  if (sequence.files.some((file) => pass.frames.has(file.frame))) {
    // Beside a frame that is there, only a slip of the key in the same folder claims the frame.
    return relation === 'name' && sequence.directory === pass.sequence.directory && sequence.files.length * 4 <= pass.frames.size;
  }
  const reach = relation === 'name' || relation === 'version' ? sequence.files.length : 0;
  return first >= pass.first - reach && last <= pass.last + reach;
}

/** The brief that a folder itself implies: its passes, named by their patterns, from lowest to highest frame. */
export function impliedBrief(listing: readonly ListedFile[], shot: string): Brief | null {
  return makeBrief(findPasses(listing), shot, (pass) => formatNamePattern(pass.sequence));
}

function makeBrief(passes: readonly ProposedPass[], shot: string, nameOf: (pass: ProposedPass) => string): Brief | null {
  if (passes.length === 0) return null;
  const rangeOf = (pass: ProposedPass) => formatFrameRange(FrameSet.range(pass.first, pass.last));
  const range = mostCommon(passes.map(rangeOf))!;
  return {
    shot,
    range,
    // By name: the largest first, as they are found, would let a missing frame decide where a pass stands.
    passes: passes
      .map((pass): BriefPass => {
        const own = rangeOf(pass);
        return { name: nameOf(pass), pattern: formatNamePattern(pass.sequence), ...(own === range ? {} : { range: own }) };
      })
      .sort((a, b) => (a.pattern < b.pattern ? -1 : 1)),
  };
}

/**
 * Adds to a brief what most files of each pass are: size, depth, channels, compression. What the
 * brief states already stays.
 *
 * @param factsOf what is known of a file; null for files that were not looked at
 */
export function withImpliedKinds(brief: Brief, listing: readonly ListedFile[], factsOf: (file: ListedFile) => FileFacts | null): Brief {
  const order = workOutOrder(brief);
  const { claims } = assignFiles(order, listing, 0);
  const kinds = brief.passes.map((_, index) => {
    const files = [...claims[index]!.values()].flat().map((claim) => claim.file);
    return majorityKind(files.map((file) => factsOf(file)).flatMap((facts) => (facts && !facts.problem && facts.header ? [facts.header] : [])));
  });
  const resolution = mostCommon(kinds.flatMap((kind) => (kind.resolution ? [kind.resolution] : [])));
  return {
    ...brief,
    ...(brief.resolution || !resolution ? {} : { resolution: parseSize(resolution) }),
    passes: brief.passes.map((pass, index) => {
      const kind = kinds[index]!;
      const ownSize = kind.resolution && kind.resolution !== resolution && !pass.resolution ? { resolution: parseSize(kind.resolution) } : {};
      return { ...ownSize, ...kind.pass, ...pass };
    }),
  };
}

function majorityKind(headers: readonly FrameHeader[]): { resolution: string | null; pass: Partial<BriefPass> } {
  if (headers.length === 0) return { resolution: null, pass: {} };
  const channels = JSON.parse(mostCommon(headers.map((header) => JSON.stringify(inReadingOrder(header.channels.map((channel) => channel.name)))))!) as string[];
  const depths = headers.flatMap((header) => (new Set(header.channels.map((channel) => channel.depth)).size === 1 ? [header.channels[0]!.depth] : []));
  const depth = mostCommon(depths);
  const orderable = depth && !['1', '2', '4', 'double'].includes(depth) ? { depth: depth as SampleDepth } : {};
  return {
    resolution: mostCommon(headers.map((header) => `${header.width}x${header.height}`)) ?? null,
    pass: { channels, ...orderable, compression: [mostCommon(headers.map((header) => header.compression))!] },
  };
}

function parseSize(text: string): [number, number] {
  const [width, height] = text.split('x').map(Number);
  return [width, height];
}

/** The value that turns up most; among equals the first. */
function mostCommon<Value extends string>(values: readonly Value[]): Value | undefined {
  const counts = new Map<Value, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  let best: Value | undefined;
  for (const [value, count] of counts) if (best === undefined || count > counts.get(best)!) best = value;
  return best;
}

/** A proposal of more passes than this is none that a person could correct. */
const MOST_PROPOSED = 200;

/**
 * Proposes a brief for a folder, for a person to correct: passes under short names with the roles
 * that their names suggest. Takes time in proportion to the number of names, whatever they are.
 *
 * @param folderName the folder's own name, for the shot
 * @returns null where the folder holds no numbered pictures
 */
export function proposeBrief(listing: readonly ListedFile[], folderName: string): Brief | null {
  // The largest come first. No shot has more passes than that; what has is a folder of something else.
  const passes = findPasses(listing).slice(0, MOST_PROPOSED);
  if (passes.length === 0) return null;
  const names = shortNames(passes.map((pass) => pass.sequence));
  const brief = makeBrief(passes, folderName, (pass) => names.get(pass.sequence)!);
  if (!brief) return null;
  const roles = brief.passes.map((pass) => ({ ...pass, role: roleByName(pass.name) }));
  // As people list them: the beauty first, then by role, then by name.
  roles.sort((a, b) => passRoles.indexOf(a.role) - passRoles.indexOf(b.role) || (a.name < b.name ? -1 : 1));
  return { ...brief, fps: '24', passes: roles };
}

/** The files that show what kind each pass is: a few from its start, middle and end. */
export function sampleFiles(brief: Brief, listing: readonly ListedFile[]): ListedFile[] {
  const { claims } = assignExactly(workOutOrder(brief), listing);
  return claims.flatMap((byFrame) => {
    const files = filesToInspect({ claims: [byFrame], unexpected: [], stillWriting: [], unplanned: [], strays: [] });
    const last = files.length - 1;
    return [...new Set([0, 0.25, 0.5, 0.75, 1].map((share) => Math.round(last * share)))].filter((i) => i >= 0).map((i) => files[i]!);
  });
}

const ROLE_WORDS: readonly [PassRole, RegExp][] = [
  ['depth', /^(depth|z|zdepth)$/],
  ['normal', /^(normal|normals|n|nrm)$/],
  ['motion', /^(motion|vector|vectors|velocity|mv)$/],
  ['occlusion', /^(occlusion|ao)$/],
  ['albedo', /^(albedo)$/],
  ['matte', /^(matte|mask)/],
  ['id', /^(id|ids|objectid|materialid)$/],
  ['light', /^(diffuse|specular|transmission|emission|reflection|refraction|sss|volume)$/],
  ['beauty', /^(beauty|rgb|rgba|color|colour|final|main)$/],
];

export function roleByName(name: string): PassRole {
  const words = name.toLowerCase().split(/[^a-z]+/);
  for (const [role, expression] of ROLE_WORDS) if (words.some((word) => expression.test(word))) return role;
  return name === 'beauty' ? 'beauty' : 'other';
}

/** Short, distinct names: what the sequences' names do not have in common, else their folder. */
function shortNames(sequences: readonly FoundSequence[]): Map<FoundSequence, string> {
  const names = new Map<FoundSequence, string>();
  if (sequences.length === 1) return names.set(sequences[0]!, 'beauty');
  const tokens = sequences.map((sequence) => wordsOf(sequence));
  const shared = new Set(tokens[0]!.filter((word) => tokens.every((list) => list.includes(word))));
  const taken = new Set<string>();
  sequences.forEach((sequence, index) => {
    const own = tokens[index]!.filter((word, i, list) => !shared.has(word) && list.indexOf(word) === i);
    const base = own.join('_') || baseName(sequence.directory) || extensionOf(sequence.suffix) || 'pass';
    let name = base;
    for (let n = 2; taken.has(name); n++) name = `${base}_${n}`;
    taken.add(name);
    names.set(sequence, name);
  });
  return names;
}

function wordsOf(sequence: FoundSequence): string[] {
  const dot = sequence.suffix.lastIndexOf('.');
  const stem = `${sequence.directory}/${sequence.prefix}.${dot < 0 ? sequence.suffix : sequence.suffix.slice(0, dot)}`;
  return stem.split(/[/._\s-]+/).filter((word) => word !== '' && !/^v\d+$/i.test(word));
}
