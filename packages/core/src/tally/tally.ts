import * as z from 'zod';
import { type Order, type OrderedPass } from '../brief/index.ts';
import type { FileFacts } from '../inspection/index.ts';
import { baseName, formatNamePattern, framePath } from '../naming/index.ts';
import { FrameSet, frameSetSchema } from '../ranges/index.ts';
import type { Assignment, Claim } from './assign.ts';
import { findingCodes } from './codes.ts';
import { compareAlongPasses } from './along-pass/index.ts';
import { isComing, type Coming } from './coming.ts';
import { concernsPass } from './concern.ts';
import { FindingCollector, type Finding } from './findings.ts';
import { compareFileKind, comparePassKind, wantedKind } from './kind.ts';
import type { ListedFile } from './listing.ts';
import { writeMessage } from './messages.ts';
import { findRangeMismatches } from './pass-ranges.ts';
import { addUnsafeNames } from './unsafe-names.ts';

/** Counts up when the rules of the tally change: a tally by earlier ones is made anew although no file has changed. */
export const TALLY_EDITION = 12;

/** How closely files were looked at. */
export const tallyLevels = ['names', 'headers', 'full'] as const;
export type TallyLevel = (typeof tallyLevels)[number];

export const passTallySchema = z.object({
  name: z.string(),
  expected: z.number(),
  sound: z.number(),
  missing: frameSetSchema,
  broken: frameSetSchema,
  unexpected: frameSetSchema,
});
export type PassTally = z.output<typeof passTallySchema>;

/** The count of what is there against a brief. */
export interface Tally {
  /** True exactly when no blocker stands. */
  readonly ready: boolean;
  readonly level: TallyLevel;
  readonly passes: readonly PassTally[];
  readonly findings: readonly Finding[];
}

/** What a tally is made from. */
export interface TallyInput {
  readonly order: Order;
  readonly listing: readonly ListedFile[];
  readonly assignment: Assignment;
  readonly level: TallyLevel;
  /** Whether nobody ordered anything: the brief is what the folder itself implies. */
  readonly isImplied?: boolean;
  /** Frames that somebody is still rendering; they are not missing yet. */
  readonly coming?: Coming;
  /** Paths of files that stand in for frames that are to come. */
  readonly stopgaps?: ReadonlySet<string>;
  /** Folders that could not be looked into. */
  readonly unreadable?: readonly { path: string; message: string }[];
  /** What is known of a listed file; null at level `names`. */
  factsOf(file: ListedFile): FileFacts | null;
  /** A checksum of a listed file's content; null where it is not known. */
  contentOf?(file: ListedFile): string | null;
}

/**
 * Makes the count: turns what stands where, and what is known of each file, into findings and
 * into the sums of each pass. One fault is told once.
 */
export function tally(input: TallyInput): Tally {
  const { order, assignment } = input;
  const collector = new FindingCollector(order.brief);
  const stillWriting = new Map<string, Claim>();
  for (const claim of assignment.stillWriting) {
    if (assignment.claims[claim.pass]!.has(claim.frame)) continue;
    stillWriting.set(`${claim.pass}/${claim.frame}`, claim);
    collector.add('still-writing', passName(order, claim.pass), { frame: claim.frame, file: claim.file.path });
  }
  const missing = order.passes.map((ordered, index) => {
    if (ordered.owner !== index) return FrameSet.empty;
    const found = assignment.claims[index]!;
    const absent = [...ordered.frames].filter((frame) => !found.has(frame) && !stillWriting.has(`${index}/${frame}`));
    const awaited = input.coming && isComing(order, index, input.coming) ? input.coming.frames : FrameSet.empty;
    const coming = absent.filter((frame) => awaited.has(frame));
    for (const frame of coming) collector.add('coming-frame', ordered.pass.name, { frame });
    const unfilled = coming.length === 0 ? absent : absent.filter((frame) => !awaited.has(frame));
    addMissing(collector, ordered, unfilled);
    return FrameSet.of(unfilled);
  });
  assignment.claims.forEach((claims, index) => {
    const awaited = input.coming?.replaces && isComing(order, index, input.coming) ? input.coming.frames : FrameSet.empty;
    for (const [frame, list] of claims) {
      const isLeftover = awaited.has(frame) && list.some(({ file }) => input.factsOf(file)?.problem);
      if (isLeftover) collector.add('coming-frame', passName(order, index), { frame });
      else addClaims(collector, input, list);
    }
  });
  if (input.level !== 'names') compareAlongPasses(collector, order, assignment, input);
  if (input.isImplied) findRangeMismatches(collector, order);
  addLeftOver(collector, input);
  addUnsafeNames(collector, order, input.listing, assignment);
  const findings = collector.findings(writeMessage);
  const passes = order.passes.map((ordered) => sumPass(order, ordered, missing[ordered.owner]!, findings));
  return { ready: findings.every((finding) => finding.severity !== 'blocker'), level: input.level, passes, findings };
}

function passName(order: Order, index: number): string {
  return order.passes[index]!.pass.name;
}

function addMissing(collector: FindingCollector, ordered: OrderedPass, unfilled: readonly number[]): void {
  const code = unfilled.length === ordered.frames.size ? 'missing-pass' : 'missing-frame';
  for (const frame of unfilled) collector.add(code, ordered.pass.name, { frame });
}

const CODE_OF_RELATION = { padding: 'wrong-padding', version: 'mixed-version', name: 'wrong-name', prefix: 'wrong-name' } as const;

function addClaims(collector: FindingCollector, input: TallyInput, claims: readonly Claim[]): void {
  const { order } = input;
  if (claims.length > 1) {
    for (const claim of claims) collector.add('duplicate-number', passName(order, claim.pass), { frame: claim.frame, file: claim.file.path });
  }
  for (const claim of claims) {
    const pass = passName(order, claim.pass);
    const { frame } = claim;
    const file = claim.file.path;
    if (input.stopgaps?.has(file)) collector.add('stopgap-frame', pass, { frame, file });
    if (claim.relation === 'format') {
      const ordered = framePath(order.passes[claim.pass]!.pattern, frame);
      collector.add('wrong-format', pass, { frame, file, evidence: `The file is ${baseName(file)} where ${baseName(ordered)} is ordered.` });
      continue;
    }
    if (claim.relation !== 'exact' && claims.length === 1) {
      const detail = claim.relation === 'padding' ? '' : nameDetail(order.passes[claim.pass]!, claim);
      collector.add(CODE_OF_RELATION[claim.relation], pass, {
        frame,
        file,
        detail,
        evidence: `${file} should be ${framePath(order.passes[claim.pass]!.pattern, frame)}.`,
        shouldBe: framePath(order.passes[claim.pass]!.pattern, frame),
      });
    }
    addFacts(collector, input, claim);
  }
}

function nameDetail(ordered: OrderedPass, claim: Claim): string {
  const { path } = claim.file;
  const digits = String(Math.abs(claim.frame));
  const at = path.lastIndexOf(digits);
  const shown = at < 0 ? path : path.slice(0, at).replace(/-?0*$/, '') + '#'.repeat(4) + path.slice(at + digits.length);
  return `${shown} where ${formatNamePattern(ordered.pattern)} is ordered`;
}

function addFacts(collector: FindingCollector, input: TallyInput, claim: Claim): void {
  const { order } = input;
  const facts = input.factsOf(claim.file);
  if (!facts) return;
  const at = { frame: claim.frame, file: claim.file.path };
  const owner = order.passes[claim.pass]!;
  if (facts.problem) {
    collector.add(facts.problem.code, owner.pass.name, { ...at, evidence: facts.problem.message });
    return;
  }
  if (facts.trailingBytes > 0) {
    collector.add('trailing-data', owner.pass.name, { ...at, evidence: `${facts.trailingBytes} bytes stand behind the end of the picture.` });
  }
  if (facts.notExamined !== null) {
    collector.add('not-examined', owner.pass.name, { ...at, evidence: facts.notExamined });
  }
  if (!facts.header) return;
  const { header } = facts;
  // The sentence is put together with the others' detail, which has neither capital nor stop.
  for (const assumed of header.assumed ?? []) collector.add('assumed-header', owner.pass.name, { ...at, detail: assumed.replace(/\.$/, '') });
  for (const difference of compareFileKind(header, wantedKind(owner, order.brief.pixelAspect))) {
    collector.add(difference.code, owner.pass.name, { ...at, detail: difference.detail });
  }
  const sharing = order.passes.filter((pass) => pass.owner === claim.pass);
  for (const pass of sharing) {
    if (!pass.frames.has(claim.frame)) continue;
    const others = new Set(sharing.filter((other) => other !== pass).flatMap((other) => other.pass.channels ?? []));
    // What nobody ordered is told of the pass that owns the files, not of each layer.
    if (pass !== owner) for (const channel of header.channels) if (!pass.pass.channels?.includes(channel.name)) others.add(channel.name);
    for (const difference of comparePassKind(header, wantedKind(pass, undefined), others)) {
      collector.add(difference.code, pass.pass.name, { ...at, detail: difference.detail });
    }
  }
}

function addLeftOver(collector: FindingCollector, input: TallyInput): void {
  const { order, assignment } = input;
  for (const claim of assignment.unexpected) {
    collector.add('unexpected-frame', passName(order, claim.pass), { frame: claim.frame, file: claim.file.path });
  }
  for (const sequence of assignment.unplanned) {
    const detail = formatNamePattern(sequence);
    for (const entry of sequence.files) collector.add('unplanned-sequence', null, { frame: entry.frame, file: entry.path, detail });
  }
  for (const folder of input.unreadable ?? []) collector.add('unreadable', null, { file: folder.path, evidence: folder.message });
  for (const file of assignment.strays) collector.add('stray-file', null, { file: file.path });
}

function sumPass(order: Order, ordered: OrderedPass, missing: FrameSet, findings: readonly Finding[]): PassTally {
  let blocked = FrameSet.empty;
  let broken = FrameSet.empty;
  let unexpected = FrameSet.empty;
  for (const finding of findings) {
    const { frames } = finding;
    if (frames.isEmpty || !concernsPass(order, ordered, finding)) continue;
    if (finding.code === 'unexpected-frame') unexpected = unexpected.union(frames);
    else if (finding.severity === 'blocker') {
      blocked = blocked.union(frames);
      if (findingCodes[finding.code].family === 'soundness') broken = broken.union(frames);
    }
  }
  const here = ordered.frames;
  return {
    name: ordered.pass.name,
    expected: here.size,
    sound: here.difference(blocked).difference(missing).size,
    missing: missing.intersection(here),
    broken: broken.intersection(here),
    unexpected,
  };
}
