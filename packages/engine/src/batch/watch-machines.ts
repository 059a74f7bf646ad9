import { arrivalIntervals, median, stallAfter, type Machine } from '@mint-tally/core';
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

/** Tells when nothing has arrived in a watched folder for much longer than frames take to come. */
export async function watchArrivals(on: Queryable, batchId: number, frames: readonly BatchFrame[]): Promise<void> {
  const arrivals = frames.flatMap(({ state, changedAt }) => (state === 'done' && changedAt ? [changedAt.getTime()] : []));
  // Several that come with one look count as one arrival.
  const intervals = arrivalIntervals(arrivals).filter((seconds) => seconds > 0.1);
  const since = (Date.now() - Math.max(...arrivals)) / 1000;
  if (intervals.length > 0 && since > stallAfter(intervals)) {
    await raiseAlarm(on, batchId, 'stuck', '', `Nothing has arrived for ${Math.round(since)} s; frames came about every ${median(intervals).toFixed(1)} s.`);
  } else await settleAlarm(on, batchId, 'stuck', '');
}
