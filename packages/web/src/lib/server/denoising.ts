import {
  formatFrameRange,
  framesToRender,
  FrameSet,
  isForDenoising,
  lightsBeside,
  meanFigure,
  MintError,
  parseFrameRange,
  parseFrameSet,
  refuseData,
  SEATS,
  secondsForRange,
  STRETCH,
  TILE,
  toldBy,
  workOutOrder,
  type Brief,
  type DenoiseRequest,
  type FrameCount,
  type JobRequest,
  type Rectangle,
} from '@mint-tally/core';
import { findRoot } from '@mint-tally/engine';
import {
  cancelJob,
  countEngines,
  createDenoise,
  endDenoise,
  findDenoise,
  listNewestJobs,
  newestAssay,
  newestDenoises,
  requestJob,
  type DenoiseRun,
  type Queryable,
} from '@mint-tally/store';
import { wayOf, type LightView, type RangeView, type TargetView, type TestView } from '$lib/denoise/denoise-view';
import { freshPlace, madeBy, placeFor, placesWithLights, type MadePass } from './denoise-places';
import { needBrief } from './frames';
import { actor, services } from './services';
import { loadShotState, type ShotState } from './shot-state';

/** Tests that are shown: as many as are kept. */
const SHOWN_TESTS = 3;
/** Ranges that are asked for what they were made with, before a result gets another name. */
const REMEMBERED = 50;
/** Frames of a test: it is to be small. */
const MOST_TEST_FRAMES = 48;
/** What is found of frames that have no file. */
const NO_FILE: ReadonlySet<string> = new Set(['missing-frame', 'missing-pass', 'pass-range-mismatch']);
/** What is done where one goes on already. */
const GOES_ON_REMEDY = { test: 'Stop it, or let it end.', range: 'Pause or stop it, or let it end.' };

/** What the page of the filters shows. */
export async function readDenoising(shotId: number) {
  const { database, config } = services();
  const [state, tests, ranges] = await Promise.all([
    loadShotState(database, shotId),
    newestDenoises(database, shotId, 'test', SHOWN_TESTS),
    newestDenoises(database, shotId, 'range', REMEMBERED),
  ]);
  const { brief, shot } = state;
  const passes = brief.passes.filter(isForDenoising).map(({ name }) => name);
  const root = config.roots.find(({ name }) => name === shot.root);
  return {
    passes,
    mostTestFrames: MOST_TEST_FRAMES,
    tests: tests.map((run) => testView(run, brief)),
    range: ranges[0] ? rangeView(ranges[0], state) : null,
    isWritable: root?.writable ?? false,
    targets: passes.flatMap((pass) => targetsOf(brief, pass, madeBy(ranges))),
    lights: Object.fromEntries(passes.map((pass) => [pass, lightsOf(brief, pass)])),
  };
}

/** Where each way in which a pass can be done would go: those that were done go where they are, any other to a new place. */
function targetsOf(brief: Brief, pass: string, made: readonly MadePass[]): (TargetView & { readonly way: string | null })[] {
  const settled = [...new Set(made.flatMap((one) => (one.pass === pass ? [one.way] : [])))];
  return [...settled.map((way) => ({ pass, way, name: placeFor(brief, pass, way, made).name })), { pass, way: null, name: freshPlace(brief, pass, made).name }];
}

/** The lights that can go along with a pass. */
function lightsOf(brief: Brief, name: string): LightView[] {
  const pass = brief.passes.find((one) => one.name === name)!;
  return lightsBeside(brief.passes, pass).map((light) => ({ pass: light.name, isInside: light.pattern === pass.pattern }));
}

function testView({ id, request, createdAt, parts }: DenoiseRun, brief: Brief): TestView {
  const { pass, frames, range, region, strengths } = request;
  const ordered = workOutOrder(brief).passes.find((one) => one.pass.name === pass);
  const all = ordered?.frames.size ?? 0;
  const times = region === null ? 1 : timesLarger(region, ordered?.resolution ?? null);
  return {
    id,
    pass,
    frames,
    range,
    frameCount: parseFrameRange(range).size,
    region,
    createdAt: createdAt.toISOString(),
    strengths: strengths.map((strength, place) => {
      const figures = parts.find((part) => part.strength === place)?.figures ?? null;
      const seconds = figures && secondsForRange(figures, all, frames);
      return { strength, figures, secondsForRange: seconds !== null && times !== null ? seconds * times : null };
    }),
  };
}

/** How many times a part, with the tiles around it that are filtered too, goes into the picture; null where its size is not ordered. */
function timesLarger([, , width, height]: Rectangle, resolution: readonly [number, number] | null): number | null {
  if (!resolution) return null;
  const side = (part: number, whole: number) => Math.min(whole, part + 5 * TILE);
  return (resolution[0] * resolution[1]) / (side(width, resolution[0]) * side(height, resolution[1]));
}

function rangeView({ id, request, outcome, parts }: DenoiseRun, { brief, findings }: Pick<ShotState, 'brief' | 'findings'>): RangeView {
  const { pass, frames, range, strengths, target, lights } = request;
  const done = parts.filter(({ figures }) => figures !== null);
  const figures = done.map((part) => part.figures!);
  const open = findings.filter(({ waiver }) => waiver === null);
  const { denoise } = framesToRender(workOutOrder(brief), open);
  const foundOf = (name: string, isMeant: (code: string) => boolean) =>
    open.filter(({ pass: of, code }) => of === name && isMeant(code)).reduce((all, one) => all.union(one.frames), FrameSet.empty);
  return {
    ...{ id, pass, frames, range, outcome },
    target: target!.name,
    strength: strengths[0]!,
    done: done.reduce((sum, part) => sum + part.frames.size, 0),
    total: parts.reduce((sum, part) => sum + part.frames.size, 0),
    told: figures.reduce((sum, one) => sum + toldBy(one), 0),
    written: figures.reduce((sum, one) => sum + one.written, 0),
    noiseBefore: meanFigure(figures, 'noiseBefore'),
    noise: meanFigure(figures, 'noise'),
    temporalBefore: meanFigure(figures, 'temporalBefore'),
    temporalNoise: meanFigure(figures, 'temporalNoise'),
    missing: joined(figures.map(({ missing }) => missing)),
    unreadable: joined(figures.map(({ unreadable }) => unreadable)),
    holes: figures.reduce((sum, { holes }) => sum + holes, 0),
    lacking: [...new Set(figures.flatMap(({ lacking }) => lacking))],
    lights: lights.map((light) => ({
      pass: light.pass,
      target: light.target.name,
      missing: joined(figures.map((one) => one.lights.find((other) => other.pass === light.pass)?.missing ?? '')),
    })),
    toMakeAgain: [target!, ...lights.map((light) => light.target)].flatMap(({ name }) => {
      const outdated = foundOf(name, (code) => code === 'outdated-frame');
      const frames = (denoise.get(name) ?? FrameSet.empty).union(outdated).intersection(parseFrameRange(range));
      const inTheWay = frames.difference(foundOf(name, (code) => NO_FILE.has(code)));
      return frames.isEmpty ? [] : [{ name, frames: formatFrameRange(frames), inTheWay: formatFrameRange(inTheWay) }];
    }),
  };
}

const joined = (ranges: readonly string[]) => formatFrameRange(ranges.map(parseFrameSet).reduce((all, one) => all.union(one), FrameSet.empty));

/** What somebody wants of a pass; the rest follows. */
type Wish = Pick<DenoiseRequest, 'purpose' | 'pass' | 'strengths' | 'range' | 'region'> & {
  readonly frames: FrameCount;
  /** Whether the lights that a range's pass is put together from go along with it. */
  readonly withLights: boolean;
};

/** Begins a test, or a range. @throws MintError where it cannot be, in words */
export async function beginDenoising(shotId: number, { withLights, ...wish }: Wish): Promise<void> {
  const { database, config } = services();
  const [{ brief }, state] = await Promise.all([needBrief(shotId), loadShotState(database, shotId)]);
  const pass = brief.passes.find(({ name }) => name === wish.pass);
  if (!pass) throw new MintError('no-such-pass', `The brief orders no pass ${wish.pass}.`);
  refuseData(pass);
  if (withLights && lightsBeside(brief.passes, pass).length === 0)
    throw new MintError('no-lights', `No lights go along with ${pass.name}.`, { remedy: 'Denoise it by itself.' });
  const ordered = workOutOrder(brief).passes.find((one) => one.pass === pass)!.frames;
  const wanted = parseFrameRange(wish.range).intersection(ordered);
  if (wanted.isEmpty)
    throw new MintError('no-frames', `None of ${wish.range} is ordered of ${wish.pass}.`, { remedy: `Ordered is ${formatFrameRange(ordered)}.` });
  if (wish.purpose === 'test' && wanted.size > MOST_TEST_FRAMES)
    throw new MintError('too-many', `${wanted.size} frames are no test.`, { remedy: `Try at most ${MOST_TEST_FRAMES}: a second or two tell it.` });
  if (wish.purpose === 'range' && !findRoot(config.roots, state.shot.root).writable)
    throw new MintError('not-writable', `${state.shot.root} may only be read.`, { remedy: 'Allow writing there in the configuration, or use ./mint denoise.' });
  const [assay, ranges, active] = await Promise.all([
    newestAssay(database, shotId),
    newestDenoises(database, shotId, 'range', REMEMBERED),
    activeJobs(shotId, ({ purpose }) => purpose === wish.purpose),
  ]);
  // A test goes before a range, which gives way to it; of either one goes on.
  if (active.length > 0) throw new MintError('goes-on', `Another ${wish.purpose} of this shot goes on.`, { remedy: GOES_ON_REMEDY[wish.purpose] });
  const [way, made] = [[wish.strengths[0]!, wish.frames] as const, madeBy(ranges)];
  const places =
    wish.purpose === 'test'
      ? { target: null, lights: [] }
      : withLights
        ? placesWithLights(brief, pass, way, made)
        : { target: placeFor(brief, pass.name, wayOf(...way), made), lights: [] };
  const request: DenoiseRequest = {
    ...wish,
    range: formatFrameRange(wanted),
    region: wish.purpose === 'test' ? wish.region : null,
    ...places,
    measuredAt: state.assay && assay ? assay.at.getTime() : null,
  };
  const engines = Math.max(1, await countEngines(database));
  const frames = [...wanted];
  const length = Math.min(STRETCH * config.workers, Math.ceil(frames.length / engines));
  const parts =
    wish.purpose === 'test'
      ? wish.strengths.map((_, strength) => ({ strength, frames: wanted }))
      : Array.from({ length: Math.ceil(frames.length / length) }, (_, i) => ({ strength: 0, frames: FrameSet.of(frames.slice(i * length, (i + 1) * length)) }));
  await database.transaction(async (inside) => {
    // One that lies there half done gives way to this one: what it has written is found where it is.
    for (const run of ranges) if (run.outcome === null && wish.purpose === 'range') await endDenoise(inside, run.id, 'stopped');
    const run = await createDenoise(inside, shotId, request, parts, actor);
    await takeSeats(inside, shotId, { id: run, request }, Math.min(parts.length, engines));
  });
}

async function takeSeats(on: Queryable, shotId: number, { id: run, request: { purpose } }: Pick<DenoiseRun, 'id' | 'request'>, seats: number): Promise<void> {
  for (let seat = 1; seat <= Math.min(SEATS, seats); seat++) await requestJob(on, shotId, { kind: 'denoise', run, seat, purpose }, actor);
}

type Seat = Extract<JobRequest, { kind: 'denoise' }>;

/** Numbers of the jobs of a shot's denoisings that run or wait. */
async function activeJobs(shotId: number, isMeant: (seat: Seat) => boolean): Promise<number[]> {
  const jobs = await listNewestJobs(services().database);
  return jobs.flatMap(({ id, request, state, ...job }) =>
    job.shotId === shotId && request.kind === 'denoise' && isMeant(request) && (state === 'queued' || state === 'running') ? [id] : [],
  );
}

async function letGo(jobs: readonly number[]): Promise<void> {
  for (const job of jobs) await cancelJob(services().database, job);
}

/** Pauses the range that goes on: after the frames that are being worked on, nothing further is begun. */
export async function pauseDenoising(shotId: number): Promise<void> {
  await letGo(await activeJobs(shotId, ({ purpose }) => purpose === 'range'));
}

/** A run of this shot. @throws MintError */
async function needRun(shotId: number, id: number): Promise<DenoiseRun> {
  const run = await findDenoise(services().database, id);
  if (run?.shotId !== shotId) throw new MintError('not-found', 'There is no such denoising.');
  return run;
}

/** Ends a run for good; what it has written stays. */
export async function stopDenoising(shotId: number, id: number): Promise<void> {
  await needRun(shotId, id);
  await endDenoise(services().database, id, 'stopped');
  await letGo(await activeJobs(shotId, ({ run }) => run === id));
}

/** Goes on behind the last good frame. */
export async function resumeDenoising(shotId: number, id: number): Promise<void> {
  const { database } = services();
  const run = await needRun(shotId, id);
  if (run.outcome !== null) throw new MintError('over', 'That denoising is over.', { remedy: 'Begin it anew: frames that are there are not made again.' });
  // Whoever pauses and changes their mind at once must not be told that it goes on.
  const left = run.parts.filter(({ figures }) => figures === null).length;
  await takeSeats(database, shotId, run, Math.min(left, Math.max(1, await countEngines(database))));
}

/** A test of this shot, as View shows it. */
export async function findTest(shotId: number, id: number): Promise<DenoiseRun | null> {
  const run = await findDenoise(services().database, id);
  return run?.shotId === shotId && run.request.purpose === 'test' ? run : null;
}
