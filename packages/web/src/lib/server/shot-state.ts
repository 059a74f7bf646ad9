import {
  acceptedGates,
  coversFinding,
  describeChanges,
  explainRefusal,
  isReadyForHandoff,
  joinChanges,
  makeLanes,
  severities,
  workOutEyes,
  workOutGates,
  workOutOrder,
  type Brief,
  type Changes,
  type Finding,
  type Gate,
  type GateName,
  type Lane,
  type PassEyes,
} from '@mint-tally/core';
import {
  findShot,
  listChangesAfter,
  listNotes,
  listPackages,
  listSights,
  listWaivers,
  listWatchers,
  newestAssay,
  newestBatch,
  newestBrief,
  newestCount,
  readFindings,
  readPassContents,
  readStateKey,
  type BatchOutcome,
  type Database,
  type SavedNote,
  type SavedPackage,
  type Shot,
  type Waiver,
} from '@mint-tally/store';
import { error } from '@sveltejs/kit';
import { LRUCache } from 'lru-cache';

/** A finding as the screens show it: with its waiver, where somebody accepted it. */
export interface ShownFinding extends Finding {
  readonly waiver: { readonly id: number; readonly person: string; readonly reason: string } | null;
}

/** Everything that the screens of a shot show. */
export interface ShotState {
  /** Stands for all that this was made from: while it is the same, so is this. */
  readonly stateKey: string;
  readonly shot: Shot;
  readonly brief: Brief;
  readonly briefVersion: number;
  readonly lanes: readonly Lane[];
  /** Blockers first; empty before the first count. */
  readonly findings: readonly ShownFinding[];
  readonly gates: readonly Gate[];
  /** What has been seen, of the passes that are to be watched and of those that somebody looked at; empty before the first count. */
  readonly eyes: readonly PassEyes[];
  /** Who has watched at the ordered rate and at 100 %. */
  readonly watchers: readonly string[];
  readonly ready: boolean;
  /** Why it cannot be handed over, in the words of a package that was refused; empty when it can. */
  readonly refusal: string;
  /** Gates that a person had closed, and that are open again because the frames are others now. */
  readonly reopened: readonly { readonly gate: GateName; readonly person: string; readonly at: string; readonly changes: string }[];
  /** The newest count, or null before the first. */
  readonly count: {
    readonly at: string;
    readonly files: number;
    readonly opened: number;
    readonly bytes: number;
    readonly content: string;
    /** Version of the brief that it was held against. */
    readonly briefVersion: number;
    readonly stale: boolean;
    /** What had changed since the count before; null for a first one. */
    readonly changes: Changes | null;
  } | null;
  /** The newest assay of these frames; null where there is none, or one of other frames or another brief. */
  readonly assay: { readonly at: string } | null;
  /** How the newest batch stands; null when there was none. */
  readonly batch: 'running' | BatchOutcome | null;
  /** Notes that stand, and those that were closed last. */
  readonly notes: readonly SavedNote[];
  readonly waivers: readonly Waiver[];
  /** Waivers that cannot be read, and so waive nothing. */
  readonly unreadable: readonly { readonly id: number; readonly why: string }[];
  readonly packages: readonly SavedPackage[];
  /** Whether the newest package holds what was counted last. */
  readonly handedOver: boolean;
}

/** Letters of ribbons that are kept in memory for the shots that were looked at last. */
const MOST_LETTERS = 10_000_000;

const kept = new LRUCache<string, ShotState>({
  maxSize: MOST_LETTERS,
  sizeCalculation: ({ lanes, findings }) => lanes.reduce((sum, { states }) => sum + 2 * states.length, 0) + 1000 * findings.length + 5000,
});
/** Being read at the moment: many who ask at once ask once. */
const reading = new Map<string, Promise<ShotState>>();

/** A shot with its newest brief and count, and what they say: ribbon, findings, gates. Read once for as long as nothing of it changes. Do not write to it. */
export async function loadShotState(database: Database, shotId: number): Promise<ShotState> {
  const stateKey = await readStateKey(database, shotId);
  if (stateKey === null) error(404, { message: 'There is no such shot.', remedy: 'Choose one from the list of shots.' });
  const key = `${shotId} ${stateKey}`;
  const known = kept.get(key);
  if (known) return known;
  const read = reading.get(key) ?? readShotState(database, shotId, stateKey);
  reading.set(key, read);
  try {
    const state = await read;
    kept.set(key, state);
    return state;
  } finally {
    reading.delete(key);
  }
}

/** Reads a shot with its newest brief and count, and works out ribbon, findings and gates. */
async function readShotState(database: Database, shotId: number, stateKey: string): Promise<ShotState> {
  const [shot, saved, counted, { waivers, unreadable }, packages, batch, contents, sights, watchers, notes, newest] = await Promise.all([
    findShot(database, shotId),
    newestBrief(database, shotId),
    newestCount(database, shotId),
    listWaivers(database, shotId),
    listPackages(database, shotId),
    newestBatch(database, shotId),
    readPassContents(database, shotId),
    listSights(database, shotId),
    listWatchers(database, shotId),
    listNotes(database, shotId),
    newestAssay(database, shotId),
  ]);
  if (!shot || !saved) error(404, { message: 'There is no such shot.', remedy: 'Choose one from the list of shots.' });
  const order = workOutOrder(saved.brief);
  // A count against an older brief says nothing about what is ordered now.
  const stale = counted !== null && counted.briefId !== saved.id;
  // An assay of other frames, or against another brief, says nothing of these.
  const assay = newest && counted && !stale && newest.content === counted.content && newest.briefId === saved.id ? newest : null;
  const findings = counted && !stale ? [...(await readFindings(database, counted.id)), ...(assay?.findings ?? [])].sort(byWeight) : null;
  const waiverOf = (finding: Finding) => waivers.find((waiver) => coversFinding(waiver.subject, finding)) ?? null;
  const isWaived = (finding: Finding) => waiverOf(finding) !== null;
  const eyes = findings === null ? null : workOutEyes(order, contents, sights);
  const gates = workOutGates(
    findings,
    isWaived,
    acceptedGates(
      waivers.map((waiver) => waiver.subject),
      counted?.content ?? '',
    ),
    eyes,
    assay !== null,
  );
  const reopened = await findReopened(database, shotId, gates, waivers, counted?.content ?? null);
  return {
    stateKey,
    shot,
    brief: saved.brief,
    briefVersion: saved.version,
    lanes: makeLanes(order, findings, isWaived),
    findings: (findings ?? []).map((finding) => showFinding(finding, waiverOf(finding))),
    gates,
    eyes: eyes ?? [],
    watchers: watchers.map(({ person }) => person),
    ready: isReadyForHandoff(gates),
    refusal: explainRefusal(gates, stale ? null : (counted?.changes ?? null)),
    reopened,
    count: counted && {
      at: counted.countedAt.toISOString(),
      files: counted.files,
      opened: counted.opened,
      bytes: counted.bytes,
      content: counted.content,
      briefVersion: counted.briefVersion,
      stale,
      changes: counted.changes,
    },
    assay: assay && { at: assay.at.toISOString() },
    batch: batch && (batch.outcome ?? 'running'),
    notes,
    waivers,
    unreadable,
    packages,
    handedOver: packages.length > 0 && counted !== null && !stale && packages[0]!.tallyId === counted.id,
  };
}

/** Blockers first; of one weight as they came. */
function byWeight(a: Finding, b: Finding): number {
  return severities.indexOf(a.severity) - severities.indexOf(b.severity);
}

/** Looks for gates that were closed by hand for other frames than those of now, and for what has changed since. */
async function findReopened(
  database: Database,
  shotId: number,
  gates: readonly Gate[],
  waivers: readonly Waiver[],
  content: string | null,
): Promise<ShotState['reopened'][number][]> {
  if (content === null) return [];
  const closed = gates.flatMap(({ name, state }) => {
    if (state !== 'unmeasured') return [];
    const waiver = waivers.findLast(({ subject }) => subject.kind === 'gate' && subject.gate === name && subject.content !== content);
    return waiver ? [{ gate: name, waiver }] : [];
  });
  return Promise.all(
    closed.map(async ({ gate, waiver }) => ({
      gate,
      person: waiver.person,
      at: waiver.createdAt.toISOString(),
      changes: describeChanges(joinChanges(await listChangesAfter(database, shotId, waiver.createdAt))),
    })),
  );
}

function showFinding(finding: Finding, waiver: Waiver | null): ShownFinding {
  return { ...finding, waiver: waiver && { id: waiver.id, person: waiver.person, reason: waiver.reason } };
}
