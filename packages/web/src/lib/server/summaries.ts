import { countStates, describeError, formatFrameRate, formatFrameRange, FrameSet, frameStates, MintError, parseFrameRate } from '@mint-tally/core';
import { listSummaries, saveSummary, type SummarisedShot } from '@mint-tally/store';
import * as z from 'zod';
import { makeRibbonModel } from '$lib/ribbon/ribbon-model';
import { nextStep } from '$lib/shot/next-step';
import { services } from './services';
import { loadShotState, type ShotState } from './shot-state';

const LETTERS = Object.values(frameStates);
/** More columns than this no screen has. */
const MOST_COLUMNS = 2400;

/** What the list of shots shows of one. */
const summarySchema = z.object({
  fps: z.string(),
  range: z.string(),
  /** A letter for each column of the strip: for each frame, or for the worst of several. */
  states: z.string(),
  sound: z.number(),
  expected: z.number(),
  /** Of the seven gates, in their order. */
  gates: z.array(z.enum(['closed', 'warned', 'waived', 'open', 'unmeasured'])),
  handedOver: z.boolean(),
  counted: z.boolean(),
  blocked: z.boolean(),
  next: z.string(),
});
type Summary = z.output<typeof summarySchema>;

export interface ShotInList {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly summary: Summary | null;
  /** Why nothing can be shown of it; empty when it can. */
  readonly problem: string;
}

/**
 * The shots of a project as the list shows them. What was worked out stands in the database for as long as
 * nothing of the shot changes, so the list reads that and nothing else. A shot that cannot be read says so
 * in its own row.
 */
export function listShotsForList(projectId: number): Promise<ShotInList[]> {
  const { database } = services();
  return listSummaries(database, projectId).then((shots) => Promise.all(shots.map(toRow)));
}

async function toRow(shot: SummarisedShot): Promise<ShotInList> {
  const { id, name, note } = shot;
  try {
    return { id, name, note, summary: readKept(shot) ?? (await workOut(shot)), problem: '' };
  } catch (thrown) {
    if (!(thrown instanceof MintError)) throw thrown;
    return { id, name, note, summary: null, problem: describeError(thrown) };
  }
}

/** Counts up when a summary says more, or otherwise, than before. */
const EDITION = 3;
const keyOf = (shot: SummarisedShot) => `${EDITION} ${shot.stateKey}`;

function readKept(shot: SummarisedShot): Summary | null {
  if (shot.summary?.stateKey !== keyOf(shot)) return null;
  const parsed = summarySchema.safeParse(JSON.parse(shot.summary.body));
  return parsed.success ? parsed.data : null;
}

async function workOut(shot: SummarisedShot): Promise<Summary> {
  const { database } = services();
  const summary = summarise(await loadShotState(database, shot.id));
  await saveSummary(database, shot.id, keyOf(shot), JSON.stringify(summary));
  return summary;
}

function summarise(state: ShotState): Summary {
  const { frames, worst } = makeRibbonModel(state.lanes);
  return {
    fps: state.brief.fps === undefined ? '' : formatFrameRate(parseFrameRate(state.brief.fps)),
    range: formatFrameRange(FrameSet.of(frames)),
    states: stripOf(worst.ranks),
    sound: countStates(state.lanes).sound,
    expected: state.lanes.reduce((sum, { states }) => sum + states.length, 0),
    gates: state.gates.map((gate) => gate.state),
    handedOver: state.handedOver,
    counted: state.count !== null && !state.count.stale,
    blocked: state.findings.some((finding) => finding.severity === 'blocker' && !finding.waiver),
    next: nextStep(state),
  };
}

/** The states as letters, several frames in one column where there are more than any screen shows; the worst wins. */
function stripOf(ranks: Uint8Array): string {
  const columns = Math.min(MOST_COLUMNS, ranks.length);
  let strip = '';
  for (let column = 0; column < columns; column++) {
    const [from, to] = [Math.floor((column * ranks.length) / columns), Math.floor(((column + 1) * ranks.length) / columns)];
    let worst = 0;
    for (let i = from; i < to; i++) if (LETTERS[ranks[i]] !== undefined && ranks[i] > worst) worst = ranks[i];
    strip += LETTERS[worst];
  }
  return strip;
}
