import { median, stallAfter, type Machine } from '@mint-tally/core';
import { raiseAlarm, settleAlarm, type BatchFrame, type Queryable } from '@mint-tally/store';

/** While no frame of the batch is done, one that takes longer than this counts as stuck, in seconds. */
const NEVER_THIS_LONG = 1800;

/** Tells of machines that are down although they have frames, and of frames that take much too long. */
export async function watchMachines(on: Queryable, batchId: number, machines: readonly Machine[], frames: readonly BatchFrame[]): Promise<void> {
  const all = frames.flatMap(({ seconds }) => (seconds === null ? [] : [seconds]));
  for (const name of new Set(frames.map(({ machine }) => machine))) {
    const own = frames.filter(({ machine }) => machine === name);
    const open = own.filter(({ state }) => state === 'waiting' || state === 'rendering');
    const machine = machines.find((one) => one.name === name);
    if (open.length > 0 && (!machine || machine.state === 'down')) {
      await raiseAlarm(on, batchId, 'machine-down', name, `It does not answer; ${open.length} of its frames wait.`);
    } else await settleAlarm(on, batchId, 'machine-down', name);

    const times = own.flatMap(({ seconds }) => (seconds === null ? [] : [seconds]));
    const known = times.length > 0 ? times : all;
    const limit = known.length > 0 ? stallAfter(known) : NEVER_THIS_LONG;
    const inHand = own.find(({ state }) => state === 'rendering');
    const since = inHand?.changedAt ? (Date.now() - inHand.changedAt.getTime()) / 1000 : 0;
    if (inHand && since > limit) {
      const usual = known.length > 0 ? `; its frames take about ${median(known).toFixed(1)} s` : '';
      await raiseAlarm(on, batchId, 'stuck', name, `Frame ${inHand.frame} has been in work for ${Math.round(since)} s${usual}.`);
    } else await settleAlarm(on, batchId, 'stuck', name);
  }
}
