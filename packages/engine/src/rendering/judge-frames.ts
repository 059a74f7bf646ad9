import { findingCodes, formatFrameRange, FrameSet, parseFrameRange, type Finding } from '@mint-tally/core';
import { judgeBatchFrame, raiseAlarm, takeMachineOut, updateBatchFrame, type Batch, type BatchFrame, type Database, type Queryable } from '@mint-tally/store';

/** What a count says of the frames of a batch: those still to come, and what is wrong with the others. */
interface Verdicts {
  readonly coming: ReadonlySet<number>;
  /** Titles of what blocks, by frame. */
  readonly wrong: ReadonlyMap<number, readonly string[]>;
}

function readVerdicts(findings: readonly Finding[]): Verdicts {
  const coming = new Set<number>();
  const wrong = new Map<number, string[]>();
  for (const finding of findings) {
    if (finding.severity !== 'blocker' || finding.frames === '') continue;
    for (const frame of parseFrameRange(finding.frames)) {
      if (finding.code === 'coming-frame') coming.add(frame);
      else wrong.set(frame, [...(wrong.get(frame) ?? []), `${finding.pass ?? ''}: ${findingCodes[finding.code].title}`]);
    }
  }
  return { coming, wrong };
}

/**
 * Writes down what the count says of each frame that has arrived. A frame that is there, sound and
 * newer than the batch is done, whatever the service knows of it.
 */
export async function judgeFrames(on: Queryable, batch: Batch, frames: readonly BatchFrame[], findings: readonly Finding[]): Promise<void> {
  const { coming, wrong } = readVerdicts(findings);
  for (const frame of frames) {
    const faults = wrong.get(frame.frame) ?? [];
    const pending = frame.state === 'waiting' || frame.state === 'rendering';
    if (pending) {
      if (coming.has(frame.frame)) continue;
      // With a service, a broken file of a frame that it still has is on its way to being replaced.
      if (faults.length > 0 && batch.service !== null) continue;
      await updateBatchFrame(on, batch.id, frame.frame, { state: 'done', machine: null, seconds: frame.seconds });
    } else if (frame.state === 'stopped') continue;
    const verdict = faults.length === 0 ? 'sound' : 'bad';
    const says = [...new Set(faults)].join('; ');
    if (frame.verdict !== verdict || frame.says !== says) await judgeBatchFrame(on, batch.id, frame.frame, verdict, says);
  }
}

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
