import { concernsPass, findingCodes, formatFrameRange, FrameSet, type Finding, type LogLine, type Order } from '@mint-tally/core';
import {
  addBatchLines,
  judgeBatchFrame,
  raiseAlarm,
  takeMachineOut,
  updateBatchFrame,
  type Batch,
  type BatchFrame,
  type Database,
  type Queryable,
} from '@mint-tally/store';

/** What a count says of the frames of a batch: those still to come, and what is wrong with the others. */
interface Verdicts {
  readonly coming: ReadonlySet<number>;
  /** What blocks, by frame. */
  readonly wrong: ReadonlyMap<number, readonly string[]>;
  /** What is to be looked at, by frame: another camera, a jump. */
  readonly odd: ReadonlyMap<number, readonly string[]>;
}

function readVerdicts(findings: readonly Finding[]): Verdicts {
  const coming = new Set<number>();
  const wrong = new Map<number, string[]>();
  const odd = new Map<number, string[]>();
  for (const { severity, frames, code, pass, detail } of findings) {
    if (severity === 'note' || frames.isEmpty) continue;
    const { title } = findingCodes[code];
    const into = severity === 'blocker' ? wrong : odd;
    const says = `${pass ?? ''}: ${title}${severity === 'warning' && detail !== '' ? `, ${detail}` : ''}`;
    for (const frame of frames) {
      if (code === 'coming-frame') coming.add(frame);
      else into.set(frame, [...(into.get(frame) ?? []), says]);
    }
  }
  return { coming, wrong, odd };
}

/** What of the findings a batch answers for: passes that it does not render say nothing against its frames. */
export function findingsOfBatch({ settings }: Batch, order: Order, findings: readonly Finding[]): Finding[] {
  const { passes } = settings;
  const rendered = order.passes.filter(({ pass }) => passes.length === 0 || passes.includes(pass.name));
  return findings.filter((finding) => finding.pass === null || rendered.some((ordered) => concernsPass(order, ordered, finding)));
}

/**
 * Writes down what the count says of each frame that has arrived, also of a sound one what is to be looked at. A frame that is there, sound and
 * newer than the batch is done, whatever the service knows of it.
 */
export async function judgeFrames(on: Queryable, batch: Batch, frames: readonly BatchFrame[], findings: readonly Finding[]): Promise<void> {
  const { coming, wrong, odd } = readVerdicts(findings);
  const arrived: LogLine[] = [];
  const at = new Date().toISOString();
  for (const [number, frame] of frames.entries()) {
    const faults = wrong.get(frame.frame) ?? [];
    const pending = frame.state === 'waiting' || frame.state === 'rendering';
    if (pending) {
      if (coming.has(frame.frame)) continue;
      // With a service, a broken file of a frame that it still has is on its way to being replaced.
      if (faults.length > 0 && batch.service !== null) continue;
      await updateBatchFrame(on, batch.id, frame.frame, { state: 'done', machine: null, seconds: frame.seconds });
      // Of a folder that is only watched nobody else says when its frames came.
      const text = `frame ${frame.frame} has arrived: ${faults.length === 0 ? 'sound' : [...new Set(faults)].join('; ')}`;
      if (batch.service === null) arrived.push({ number, machine: frame.machine, at, text });
    } else if (frame.state === 'stopped') continue;
    const verdict = faults.length === 0 ? 'sound' : 'bad';
    const says = [...new Set(faults.length > 0 ? faults : (odd.get(frame.frame) ?? []))].join('; ');
    if (frame.verdict !== verdict || frame.says !== says) await judgeBatchFrame(on, batch.id, frame.frame, verdict, says);
  }
  if (arrived.length > 0) await addBatchLines(on, batch.id, ARRIVALS, arrived);
}

/** Stands where other lines have the task at a service that said them. */
const ARRIVALS = 'arrivals';

/** Raises an alarm for a machine whose last frames were all bad, and takes it out where the rule says so. */
export async function raiseBadInRow(database: Database, batch: Batch, frames: readonly BatchFrame[]): Promise<void> {
  const byMachine = new Map<string, BatchFrame[]>();
  for (const frame of frames) {
    if (frame.verdict !== null && frame.changedAt !== null) byMachine.set(frame.machine, [...(byMachine.get(frame.machine) ?? []), frame]);
  }
  const { badInRow, out } = batch.settings;
  // Where people start the machines, people stop them.
  const stopBadMachine = batch.settings.stopBadMachine && batch.service !== null;
  for (const [machine, own] of byMachine) {
    if (out.includes(machine)) continue;
    const last = own.sort((a, b) => a.changedAt!.getTime() - b.changedAt!.getTime()).slice(-badInRow);
    if (last.length < badInRow || last.some(({ verdict }) => verdict === 'sound')) continue;
    const range = formatFrameRange(FrameSet.of(last.map(({ frame }) => frame)));
    const message = `${badInRow} bad frames in a row, ${range}: ${last.at(-1)!.says}.${stopBadMachine ? ' It was taken out; its frames go to the others.' : ''}`;
    await raiseAlarm(database, batch.id, 'bad-in-row', machine, message);
    if (stopBadMachine) await takeMachineOut(database, batch.id, machine);
  }
}
