import {
  findingCodes,
  frameStates,
  countStates,
  formatFrameRange,
  FrameSet,
  leftToWatch,
  median,
  REPORT_KIND,
  sayWaivers,
  shownRows,
  workOutOrder,
  type Finding,
  type Order,
  type Report,
} from '@mint-tally/core';
import { readAssay } from '@mint-tally/store';
import { gateQuestions } from '$lib/coin/gates';
import { sayGate } from '$lib/coin/say-gate';
import { sayReceipt } from '$lib/handoff/handoff-view';
import { loadFileTable } from './file-tables';
import { readHandoff } from './handoff';
import { services } from './services';
import type { ShotState } from './shot-state';

/** Findings that a report shows a picture of. */
const MOST_PICTURES = 40;

/** All that is known of a shot before it is handed over. @throws MintError */
export async function makeReport(state: ShotState, project: string, now: Date): Promise<Report> {
  const { brief, shot, count } = state;
  const order = workOutOrder(brief);
  const [handoff, assay, table] = await Promise.all([
    readHandoff(state),
    state.assay ? readAssay(services().database, shot.id) : null,
    count ? loadFileTable(shot.id, state.stateKey) : null,
  ]);
  const framesOf = new Map(
    order.passes.map((ordered) => [ordered.pass.name, new Set(table ? shownRows(table, order.passes[ordered.owner]!).map((row) => table.frame[row]!) : [])]),
  );
  let pictures = 0;
  const pictureOf = ({ pass, frames }: Finding) => {
    if (pass === null || pictures >= MOST_PICTURES) return null;
    const there = framesOf.get(pass);
    const frame = [...frames].find((one) => there?.has(one));
    if (frame === undefined) return null;
    pictures++;
    return { pass, frame };
  };
  return {
    kind: REPORT_KIND,
    ...{ madeAt: now.toISOString(), project, shot: shot.name, version: brief.version ?? '', note: shot.note, briefVersion: state.briefVersion },
    ...{ range: brief.range, fps: brief.fps ?? '', resolution: brief.resolution ?? null, ready: state.ready, refusal: state.refusal },
    counted: count && !count.stale ? { at: count.at, files: count.files, bytes: count.bytes } : null,
    passes: countsOf(state, order),
    gates: state.gates.map((gate) => ({ name: gate.name, asks: gateQuestions[gate.name], state: gate.state, says: sayGate(state, gate) })),
    findings: state.findings.map((finding) => ({
      ...{ code: finding.code, title: findingCodes[finding.code].title, severity: finding.severity, pass: finding.pass, frames: String(finding.frames) },
      ...{ message: finding.message, waived: finding.waiver && { person: finding.waiver.person, reason: finding.waiver.reason }, picture: pictureOf(finding) },
    })),
    waivers: sayWaivers(state.waivers, state.findings, count?.content ?? ''),
    noise: assay && {
      target: brief.sampling?.noise ?? null,
      passes: [...new Set(assay.frames.map(({ pass }) => pass))].map((pass) => {
        const own = assay.frames.filter((frame) => frame.pass === pass);
        const known = own.flatMap(({ noise }) => (noise === null ? [] : [noise]));
        return { pass, frames: own.map(({ frame }) => frame), values: own.map(({ noise }) => noise), usual: known.length === 0 ? null : median(known) };
      }),
    },
    eyes: state.eyes.filter(({ wanted }) => wanted).map((one) => ({ pass: one.pass, watched: one.watched.size, left: formatFrameRange(leftToWatch(one)) })),
    watchers: [...state.watchers],
    stamp: handoff.stamp && (({ kind, person, note, at, broken }) => ({ kind, person, note, at, broken }))(handoff.stamp),
    packages: handoff.packages.map(({ root, folder, at, actor, files, bytes, manifestSha256, receipts }) => ({
      ...{ folder: `${root}: ${folder}`, at, actor, files, bytes, manifestSha256, receipts: receipts.map(sayReceipt) },
    })),
  };
}

/** What is there of each pass, and which frames are not. */
export function countsOf(state: ShotState, order: Order): Report['passes'] {
  const inState = (states: string, numbers: FrameSet, letter: string) => formatFrameRange(FrameSet.of([...numbers].filter((_, i) => states[i] === letter)));
  return order.passes.map(({ pass, frames }, i) => {
    const lane = state.lanes[i]!;
    return {
      ...{ name: pass.name, role: pass.role ?? '', expected: frames.size, states: countStates([lane]) },
      ...{ missing: inState(lane.states, frames, frameStates.missing), broken: inState(lane.states, frames, frameStates.broken) },
    };
  });
}
