import {
  arrivalIntervals,
  describeError,
  estimateTimeLeft,
  fillFromBrief,
  formatFrameRange,
  framesToRender,
  isRendered,
  FrameSet,
  median,
  MintError,
  proveSplit,
  refuseDenoised,
  renderGroups,
  workOutOrder,
  writtenOver,
  type Brief,
  type Machine,
} from '@mint-tally/core';
import { findRoot, findService, resolveWritable, type RenderService } from '@mint-tally/engine';
import {
  batchSettingsSchema,
  createBatch,
  findShot,
  listAlarms,
  listBatchFrames,
  listBatchLines,
  listNewestJobs,
  newestBatch,
  secondsByMachine,
  newestBrief,
  newestFindings,
  requestJob,
  takeMachineOut,
  wishBatch,
  type Batch,
  type BatchFrame,
} from '@mint-tally/store';
import type { BatchView, ControlRequest, MachineView, RemainderView, ServiceChoice, StartRequest } from '$lib/batch/batch-view';
import { actor, services } from './services';

/** Bad and odd frames that a page is sent, each; the ribbon has them all. */
const SHOWN_BAD = 200;

/** The shot's newest batch as the page shows it, with the log of one machine or of all; null when there was none. */
export async function readBatchView(shotId: number, machine: string | null): Promise<BatchView | null> {
  const { database } = services();
  const batch = await newestBatch(database, shotId);
  if (!batch) return null;
  const [frames, alarms, lines, jobs] = await Promise.all([
    listBatchFrames(database, batch.id),
    listAlarms(database, batch.id),
    listBatchLines(database, batch.id, machine),
    listNewestJobs(database),
  ]);
  const heard = batch.outcome === null && batch.service !== null ? await askMachines(batch.service) : { machines: [], problem: '' };
  const failed = jobs.find((job) => job.shotId === shotId && job.request.kind === 'render' && job.request.batch === batch.id && job.state === 'failed');
  return {
    id: batch.id,
    service: batch.service,
    wanted: batch.wanted,
    outcome: batch.outcome,
    error: failed?.error ? `${failed.error.message} ${failed.error.remedy}`.trim() : '',
    createdAt: batch.createdAt.toISOString(),
    endedAt: batch.endedAt?.toISOString() ?? null,
    ...sumsOf(frames),
    ...restView(await restOf(batch, frames)),
    machines: machineViews(batch, frames, heard.machines),
    left: batch.outcome === null ? (batch.service === null ? timeOfArrivals(frames) : timeLeft(frames)) : null,
    badFrames: listed(frames.filter(({ verdict }) => verdict === 'bad')),
    oddFrames: listed(frames.filter(isOdd)),
    alarms: alarms.map(({ id, kind, machine: name, message, raisedAt, settledAt }) => ({
      id,
      kind,
      machine: name,
      message,
      at: raisedAt.toISOString(),
      settled: settledAt !== null,
    })),
    lines: lines.map(({ machine: name, at, text }) => ({ machine: name, at: at.toISOString(), text })),
    unheard: heard.problem,
  };
}

const isOdd = ({ verdict, says }: BatchFrame) => verdict === 'sound' && says !== null && says !== '';

function listed(frames: readonly BatchFrame[]) {
  return frames.slice(0, SHOWN_BAD).map(({ frame, machine: name, says }) => ({ frame, machine: name, says: says ?? '' }));
}

function sumsOf(frames: readonly BatchFrame[]) {
  const count = (holds: (frame: BatchFrame) => boolean) => frames.filter(holds).length;
  return {
    total: frames.length,
    done: count(({ state }) => state === 'done' || state === 'failed'),
    sound: count((frame) => frame.verdict === 'sound' && !isOdd(frame)),
    odd: count(isOdd),
    bad: count(({ verdict }) => verdict === 'bad'),
  };
}

async function askMachines(name: string): Promise<{ machines: readonly Machine[]; problem: string }> {
  try {
    const service = findService(services().renderServices, name);
    // What runs in the engine itself cannot be asked from here; the database tells what it does.
    return { machines: service.reportsNothing ? [] : await service.machines(), problem: '' };
  } catch (thrown) {
    if (thrown instanceof MintError) return { machines: [], problem: describeError(thrown) };
    throw thrown;
  }
}

const secondsOf = (frames: readonly BatchFrame[]) => frames.flatMap(({ seconds }) => (seconds === null ? [] : [seconds]));

function machineViews(batch: Batch, frames: readonly BatchFrame[], machines: readonly Machine[]): MachineView[] {
  return [...new Set(frames.map(({ machine }) => machine))].map((name) => {
    const own = frames.filter(({ machine }) => machine === name);
    const heard = machines.find((machine) => machine.name === name);
    const inHand = own.find(({ state }) => state === 'rendering');
    const seconds = secondsOf(own);
    return {
      name,
      state: heard?.state ?? null,
      frame: inHand?.frame ?? null,
      share: inHand && heard?.doing?.frame === inHand.frame ? heard.doing.share : 0,
      sinceSeconds: inHand?.changedAt ? (Date.now() - inHand.changedAt.getTime()) / 1000 : 0,
      medianSeconds: seconds.length > 0 ? median(seconds) : null,
      out: batch.settings.out.includes(name),
      ...sumsOf(own),
    };
  });
}

function timeLeft(frames: readonly BatchFrame[]) {
  const now = Date.now();
  return estimateTimeLeft(
    [...new Set(frames.map(({ machine }) => machine))].map((machine) => {
      const own = frames.filter((frame) => frame.machine === machine);
      const inHand = own.find(({ state }) => state === 'rendering');
      return {
        machine,
        seconds: secondsOf(own),
        waiting: own.filter(({ state }) => state === 'waiting').length,
        inHand: inHand?.changedAt ? (now - inHand.changedAt.getTime()) / 1000 : inHand ? 0 : null,
      };
    }),
  );
}

/** Time left of a watched folder, by how often frames have come. */
function timeOfArrivals(frames: readonly BatchFrame[]) {
  const arrivals = frames.flatMap(({ state, changedAt }) => (state === 'done' && changedAt ? [changedAt.getTime()] : []));
  return estimateTimeLeft([{ machine: '', seconds: arrivalIntervals(arrivals), waiting: frames.length - arrivals.length, inHand: null }]);
}

/** The frames of a batch that ended early which the newest count still finds lacking in its passes. */
async function restOf(batch: Batch, frames: readonly BatchFrame[]): Promise<FrameSet> {
  if (batch.outcome !== 'stopped' && batch.outcome !== 'failed') return FrameSet.empty;
  const { database } = services();
  const [saved, findings] = await Promise.all([newestBrief(database, batch.shotId), newestFindings(database, batch.shotId)]);
  if (!saved) return FrameSet.empty;
  const { lacking } = framesToRender(workOutOrder(saved.brief), findings);
  const { passes } = batch.settings;
  const left = [...lacking].filter(([name]) => passes.length === 0 || passes.includes(name)).reduce((all, [, set]) => all.union(set), FrameSet.empty);
  return left.intersection(FrameSet.of(frames.map(({ frame }) => frame)));
}

const restView = (rest: FrameSet) => ({ rest: formatFrameRange(rest), restCount: rest.size });

/** Begins another batch with what is left of the last one: the same passes, command and machines, each with its own frames; those of machines that were taken out go to the others. */
async function goOn(shotId: number): Promise<void> {
  const { database } = services();
  const batch = await newestBatch(database, shotId);
  const frames = batch ? await listBatchFrames(database, batch.id) : [];
  const rest = batch ? await restOf(batch, frames) : FrameSet.empty;
  if (!batch || rest.isEmpty) throw new MintError('no-batch', 'Nothing is left of the last batch.', { remedy: 'Choose what to render.' });
  const { passes, out, priority, badInRow, stopBadMachine, chunk } = batch.settings;
  const rendered = (await newestBrief(database, shotId))!.brief.passes.filter(isRendered).map(({ name }) => name);
  const names = [...new Set(frames.map(({ machine }) => machine))].filter((name) => !out.includes(name));
  const machines = names.length > 0 ? names : [...new Set(frames.map(({ machine }) => machine))];
  const left = frames.filter(({ frame }) => rest.has(frame));
  const homeless = left.filter(({ machine }) => !machines.includes(machine));
  await startBatch(shotId, {
    service: batch.service,
    command: [...batch.command],
    shares: machines
      .map((machine, place) => ({
        machine,
        frames: [...left.filter((one) => one.machine === machine), ...homeless.filter((_, i) => i % machines.length === place)].map(({ frame }) => frame),
      }))
      .filter((share) => share.frames.length > 0),
    passes: rendered.filter((name) => passes.length === 0 || passes.includes(name)),
    // What of these frames is there in another pass is rendered along, as it was to be at first.
    overwrite: true,
    settings: { priority, badInRow, stopBadMachine, chunk },
  });
}

/** What a batch could render, in range notation. */
export async function readRemainder(shotId: number, brief: Brief): Promise<RemainderView> {
  const order = workOutOrder(brief);
  const remainder = framesToRender(order, await newestFindings(services().database, shotId));
  const { render, decide, there, denoise } = remainder;
  const ordered = framesToRender(order, null).render;
  return {
    ordered: formatFrameRange(ordered),
    render: formatFrameRange(render),
    decide: formatFrameRange(decide),
    passes: [...there].map(([name, frames]) => ({ name, there: formatFrameRange(frames) })),
    denoise: [...denoise].map(([name, frames]) => ({ name, frames: formatFrameRange(frames) })),
    groups: renderGroups(order, remainder).map(({ passes, frames }) => ({ passes, frames: formatFrameRange(frames) })),
  };
}

/** The render services that there are, each with its machines and their times on this shot, or with why it cannot be used. */
export function readServices(shotId: number): Promise<ServiceChoice[]> {
  return Promise.all(services().renderServices.map((service) => readService(service, shotId)));
}

async function readService(service: RenderService, shotId: number): Promise<ServiceChoice> {
  try {
    const [{ command }, machines, times] = await Promise.all([
      service.describe(),
      service.machines(),
      secondsByMachine(services().database, shotId, service.name),
    ]);
    const middle = (name: string) => {
      const seconds = times.get(name);
      return seconds ? median(seconds) : null;
    };
    return {
      name: service.name,
      machines: machines.map(({ name, speed, state }) => ({ name, speed, state, medianSeconds: middle(name) })),
      command: command.join('\n'),
      fixed: service.fixedCommand === true,
      problem: '',
    };
  } catch (thrown) {
    if (thrown instanceof MintError) return { name: service.name, machines: [], command: '', fixed: false, problem: describeError(thrown) };
    throw thrown;
  }
}

/**
 * Begins a batch. The split is proved once more, and nothing that is sound is written over unless
 * the page said so.
 *
 * @throws MintError
 */
export async function startBatch(shotId: number, request: StartRequest): Promise<number> {
  const { database, config } = services();
  const [shot, saved] = await Promise.all([findShot(database, shotId), newestBrief(database, shotId)]);
  if (!shot || !saved) throw new MintError('not-found', 'There is no such shot.');
  if (request.service !== null) resolveWritable(findRoot(config.roots, shot.root), shot.folder);
  const wanted = FrameSet.of(request.shares.flatMap(({ frames }) => frames));
  if (wanted.isEmpty) throw new MintError('no-frames', 'The batch holds no frame.', { remedy: 'Choose the frames to render.' });
  const proof = proveSplit(wanted, request.shares);
  if (!proof.holds) throw new MintError('split', `Frames ${formatFrameRange(proof.twice)} are given out twice.`, { remedy: 'Split them again.' });
  const order = workOutOrder(saved.brief);
  const beyond = wanted.difference(framesToRender(order, null).render);
  if (!beyond.isEmpty) throw new MintError('split', `Frames ${formatFrameRange(beyond)} are not ordered.`, { remedy: 'Put them into the brief first.' });
  const brief = { ...saved.brief, passes: saved.brief.passes.filter(({ name }) => request.passes.includes(name)) };
  brief.passes.forEach(refuseDenoised);
  if (!request.overwrite && request.service !== null) {
    const [first] = writtenOver(framesToRender(order, await newestFindings(database, shotId)), wanted, request.passes);
    if (first) {
      throw new MintError('overwrite', `Frames ${formatFrameRange(first.frames)} of ${first.pass} are there, and would be written over.`, {
        remedy: 'Leave them out, or say that they may be.',
      });
    }
  }
  // The tokens are filled now, so that a brief that changes meanwhile changes nothing of the batch.
  const command = request.service === null ? [] : await commandFor(request.service, request.command, brief);
  return database.transaction(async (inside) => {
    const { service, settings, passes } = request;
    const id = await createBatch(
      inside,
      { shotId, briefId: saved.id, service, command, settings: batchSettingsSchema.parse({ ...settings, passes }) },
      request.shares,
      actor,
    );
    await requestJob(inside, shotId, { kind: 'render', batch: id }, actor);
    return id;
  });
}

/** The command with the brief's tokens filled in; a service with a command of its own takes no other. */
async function commandFor(name: string, wanted: readonly string[], brief: Brief): Promise<string[]> {
  const service = findService(services().renderServices, name);
  const { command, tokens } = await service.describe();
  return fillFromBrief(service.fixedCommand ? command : wanted, brief, tokens);
}

/** Carries out what somebody wants of the shot's batch. @throws MintError */
export async function controlBatch(shotId: number, request: ControlRequest): Promise<void> {
  if (request.action === 'go-on') return goOn(shotId);
  const { database, renderServices } = services();
  const batch = await newestBatch(database, shotId);
  if (!batch || batch.outcome !== null) throw new MintError('no-batch', 'No batch goes on.', { remedy: 'It may have ended in the meantime.' });
  if (request.action === 'wish') await wishBatch(database, batch.id, request.wanted);
  else if (request.action === 'take-out') await takeMachineOut(database, batch.id, request.machine);
  else if (batch.service !== null) await findService(renderServices, batch.service).controlMachine(request.machine, { action: 'restart' });
}
