import type { Order } from '../brief/index.ts';
import { isPictureExtension } from '../formats/index.ts';
import { extensionOf, findFrame, groupIntoSequences, isWrittenAsOrdered, relateNames, type FoundSequence, type NameRelation } from '../naming/index.ts';
import { FRESH_FOR, intendedPath, type ListedFile } from './listing.ts';

/** How a file stands to the frame that it fills: exactly named, or in some way not. */
export type ClaimRelation = 'exact' | NameRelation;

/** A file that fills, or tries to fill, one ordered frame of one pass. */
export interface Claim {
  readonly file: ListedFile;
  readonly pass: number;
  readonly frame: number;
  readonly relation: ClaimRelation;
}

/** Which file stands for which ordered frame, and what is left over. */
export interface Assignment {
  /** By pass; only passes that own their files have any. Frame number to its claims. */
  readonly claims: readonly ReadonlyMap<number, readonly Claim[]>[];
  /** Rightly named files whose number was not ordered. */
  readonly unexpected: readonly Claim[];
  /** Leftovers of a write that is still going on. */
  readonly stillWriting: readonly Claim[];
  readonly unplanned: readonly FoundSequence[];
  readonly strays: readonly ListedFile[];
}

/**
 * Holds a listing against an order: exact names first, then names that are near enough to be
 * slips. A sequence that is only near a pass which is there anyhow was not meant for it, and is
 * left as unplanned.
 *
 * @param now milliseconds since 1970, to tell fresh leftovers from old ones
 */
export function assignFiles(order: Order, listing: readonly ListedFile[], now: number): Assignment {
  const assigner = new Assigner(order);
  const rest: ListedFile[] = [];
  for (const file of listing) {
    const intended = intendedPath(file.path);
    if (intended !== null && assigner.claimLeftover(file, intended, now)) continue;
    if (!assigner.claimByPattern(file)) rest.push(file);
  }
  assigner.claimNearNames(rest);
  return assigner.finish();
}

/** The same by names that fit a pattern alone; what only comes near one is left out. */
export function assignExactly(order: Order, listing: readonly ListedFile[]): Assignment {
  const assigner = new Assigner(order);
  for (const file of listing) assigner.claimByPattern(file);
  return assigner.finish();
}

interface Match {
  readonly pass: number;
  readonly frame: number;
  readonly exact: boolean;
}

/** So many passes in a folder are gone through one by one. */
const FEW = 12;
/** A frame number is not longer than that, its sign counted. */
const MOST_DIGITS = 16;

class Assigner {
  private readonly claims: Map<number, Claim[]>[];
  private readonly unexpected: Claim[] = [];
  private readonly stillWriting: Claim[] = [];
  private readonly unplanned: FoundSequence[] = [];
  private readonly strays: ListedFile[] = [];
  /** Passes that own their files, by folder. */
  private readonly ownersByFolder = new Map<string, number[]>();
  private readonly owners: number[];
  private readonly order: Order;

  constructor(order: Order) {
    this.order = order;
    this.claims = order.passes.map(() => new Map());
    this.owners = order.passes.map((pass, index) => (pass.owner === index ? index : -1)).filter((index) => index >= 0);
    for (const index of this.owners) {
      const { directory } = order.passes[index]!.pattern;
      const list = this.ownersByFolder.get(directory);
      if (list) list.push(index);
      else this.ownersByFolder.set(directory, [index]);
    }
  }

  /** Which pass of its folder a file is named for; an exact name before one that is padded otherwise. */
  private match(path: string): Match | null {
    const candidates = this.ownersIn(path);
    if (!candidates) return null;
    const start = this.lastFolder === '' ? 0 : this.lastFolder.length + 1;
    let loose: Match | null = null;
    for (const pass of candidates.length > FEW ? this.around(path, start) : candidates) {
      const { pattern } = this.order.passes[pass]!;
      const frame = findFrame(pattern, path, start);
      if (frame === null) continue;
      if (isWrittenAsOrdered(pattern, path, start, frame)) return { pass, frame, exact: true };
      loose ??= { pass, frame, exact: false };
    }
    return loose;
  }

  /** Of many passes in one folder those whose names this may be: what stands around some of its digits is theirs. */
  private around(path: string, start: number): readonly number[] {
    const byNames = this.namesOf(this.lastFolder);
    const found = new Set<number>();
    for (const run of path.slice(start).matchAll(/-?\d+/g)) {
      const end = start + run.index + run[0].length;
      // The number may be a part of a longer run of digits: "a1####.exr", "####2.exr".
      for (let from = start + run.index; from < end; from++) {
        const before = path.slice(start, from);
        for (let to = from + 1; to <= end && to - from <= MOST_DIGITS; to++) {
          for (const pass of byNames.get(`${before}\0${path.slice(to)}`) ?? []) found.add(pass);
        }
      }
    }
    return [...found].sort((a, b) => a - b);
  }

  private readonly names = new Map<string, ReadonlyMap<string, readonly number[]>>();

  private namesOf(folder: string): ReadonlyMap<string, readonly number[]> {
    const known = this.names.get(folder);
    if (known) return known;
    const index = new Map<string, number[]>();
    for (const pass of this.ownersByFolder.get(folder) ?? []) {
      const { prefix, suffix } = this.order.passes[pass]!.pattern;
      const key = `${prefix}\0${suffix}`;
      const list = index.get(key);
      if (list) list.push(pass);
      else index.set(key, [pass]);
    }
    this.names.set(folder, index);
    return index;
  }

  private lastFolder = '';
  private lastOwners: readonly number[] | undefined;

  /** A listing goes folder by folder: the folder of the file before is most often this one's as well. */
  private ownersIn(path: string): readonly number[] | undefined {
    const slash = path.lastIndexOf('/');
    const length = Math.max(0, slash);
    if (this.lastFolder.length !== length || !path.startsWith(this.lastFolder) || this.lastOwners === undefined) {
      this.lastFolder = path.slice(0, length);
      this.lastOwners = this.ownersByFolder.get(this.lastFolder);
    }
    return this.lastOwners;
  }

  claimLeftover(file: ListedFile, intended: string, now: number): boolean {
    const match = this.match(intended);
    if (!match || now - file.modified > FRESH_FOR || !this.isOrdered(match.pass, match.frame)) return false;
    this.stillWriting.push({ file, pass: match.pass, frame: match.frame, relation: 'exact' });
    return true;
  }

  claimByPattern(file: ListedFile): boolean {
    const match = this.match(file.path);
    if (!match) return false;
    const claim: Claim = { file, pass: match.pass, frame: match.frame, relation: match.exact ? 'exact' : 'padding' };
    if (this.isOrdered(match.pass, match.frame)) this.addClaim(claim);
    else this.unexpected.push(claim);
    return true;
  }

  claimNearNames(files: readonly ListedFile[]): void {
    // What is no picture can be no frame, however many of it lie about.
    const ordered = new Set(this.owners.map((index) => extensionOf(this.order.passes[index]!.pattern.suffix).toLowerCase()));
    const pictures: ListedFile[] = [];
    for (const file of files) {
      const extension = extensionOf(file.path);
      if (isPictureExtension(extension) || ordered.has(extension.toLowerCase())) pictures.push(file);
      else this.strays.push(file);
    }
    const byPath = new Map(pictures.map((file) => [file.path, file]));
    const { sequences, unnumbered } = groupIntoSequences(byPath.keys());
    for (const path of unnumbered) this.strays.push(byPath.get(path)!);
    // The closest relations choose first, so that a far one cannot take a frame from a near one.
    const related = sequences.map((sequence) => ({ sequence, best: this.closestPass(sequence) }));
    related.sort((a, b) => rankOf(a.best?.relation) - rankOf(b.best?.relation));
    for (const { sequence, best } of related) {
      if (best && this.claimSequence(sequence, best.pass, best.relation, byPath)) continue;
      if (sequence.files.length > 1) this.unplanned.push(sequence);
      else this.strays.push(...sequence.files.map((entry) => byPath.get(entry.path)!));
    }
  }

  private closestPass(sequence: FoundSequence): { pass: number; relation: NameRelation } | null {
    let best: { pass: number; relation: NameRelation; rank: number } | null = null;
    let ambiguous = false;
    for (const pass of this.owners) {
      const { pattern } = this.order.passes[pass]!;
      const relation = relateNames(sequence, pattern);
      if (!relation) continue;
      // Among equals the pass in the same folder is meant.
      const rank = rankOf(relation) * 2 + (pattern.directory === sequence.directory ? 0 : 1);
      if (best && rank === best.rank) ambiguous = true;
      if (!best || rank < best.rank) {
        best = { pass, relation, rank };
        ambiguous = false;
      }
    }
    return ambiguous ? null : best;
  }

  private claimSequence(sequence: FoundSequence, pass: number, relation: NameRelation, byPath: ReadonlyMap<string, ListedFile>): boolean {
    const ordered = sequence.files.filter((entry) => this.isOrdered(pass, entry.frame));
    if (ordered.length === 0) return false;
    const unfilled = ordered.filter((entry) => !this.claims[pass]!.has(entry.frame));
    const slipOfTheKey = relation === 'name' && sequence.directory === this.order.passes[pass]!.pattern.directory;
    if (!slipOfTheKey && unfilled.length * 2 <= ordered.length) return false;
    for (const entry of sequence.files) {
      const claim: Claim = { file: byPath.get(entry.path)!, pass, frame: entry.frame, relation };
      if (this.isOrdered(pass, entry.frame)) this.addClaim(claim);
      else this.unexpected.push(claim);
    }
    return true;
  }

  private isOrdered(pass: number, frame: number): boolean {
    return this.order.passes[pass]!.frames.has(frame);
  }

  private addClaim(claim: Claim): void {
    const claims = this.claims[claim.pass]!.get(claim.frame);
    if (claims) claims.push(claim);
    else this.claims[claim.pass]!.set(claim.frame, [claim]);
  }

  finish(): Assignment {
    const { claims, unexpected, stillWriting, unplanned, strays } = this;
    return { claims, unexpected, stillWriting, unplanned, strays };
  }
}

const RELATION_ORDER: readonly (NameRelation | undefined)[] = ['padding', 'name', 'version', 'format', 'prefix', undefined];

function rankOf(relation: NameRelation | undefined): number {
  return RELATION_ORDER.indexOf(relation);
}

/** The files that a count should look into: those that stand for an ordered frame. */
export function filesToInspect(assignment: Assignment): ListedFile[] {
  const files: ListedFile[] = [];
  for (const claims of assignment.claims) for (const list of claims.values()) for (const claim of list) files.push(claim.file);
  return files;
}
