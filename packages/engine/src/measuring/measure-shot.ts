import { randomUUID } from 'node:crypto';
import { mkdirSync, realpathSync, rmSync } from 'node:fs';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fillFromBrief, isPictureExtension, MintError, RENDERS_EACH, type Brief, type BriefPass } from '@mint-tally/core';
import { findShot, newestBrief, type Job } from '@mint-tally/store';
import { Piscina } from 'piscina';
import { keepReference } from '../denoising/references.ts';
import { servicesFolder } from '../config/project.ts';
import { listFolder } from '../files/list-folder.ts';
import { findRoot, resolveInside } from '../files/roots.ts';
import type { JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { findService } from '../render-service/services.ts';
import type { RenderService } from '../render-service/service.ts';
import type measureFiles from './measure-worker.ts';
import type { Measured, MeasureTask, TestFile } from './measure-worker.ts';

type MeasureRequest = Extract<Job['request'], { kind: 'measure' }>;

/** A folder of test frames holds no more than these. */
const MOST_FILES = 64;
const LOOK_EVERY = 200;

/** What came of measuring, with where the frames were from. */
export interface MeasureResult extends Measured {
  readonly source: string;
}

/**
 * Measures noise and time of test frames: made by a render service on the spot, or found in a
 * folder. Null when it was stopped.
 *
 * @throws MintError
 */
export async function measureShot(tools: JobTools, control: JobControl): Promise<MeasureResult | null> {
  const { source } = control.job.request as MeasureRequest;
  const saved = (await findShot(tools.database, control.job.shotId)) && (await newestBrief(tools.database, control.job.shotId));
  if (!saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const pass = colourPass(saved.brief);
  if (source.from === 'folder') {
    const folder = resolveInside(findRoot(tools.config.roots, source.root), source.folder);
    const measured = await measure({ folder, files: await findTestFiles(folder), channels: null }, control);
    return measured && { ...measured, source: `${source.root}/${source.folder}` };
  }
  const folder = path.join(tools.config.dataFolder, 'tests', String(control.job.id));
  mkdirSync(folder, { recursive: true });
  try {
    const service = findService(tools.services, source.service);
    const files = await renderTests(service, saved.brief, pass, source, realpathSync(folder), control);
    const measured = files && (await measure({ folder: realpathSync(folder), files, channels: null }, control));
    const best = Math.max(...source.samples);
    // Tests of the filters are held against it.
    if (measured)
      keepReference(tools.config, control.job.shotId, source.frame, best, path.join(folder, files[RENDERS_EACH * source.samples.indexOf(best)]!.name));
    return measured && { ...measured, source: `${service.name}, frame ${source.frame}` };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** The pass whose noise is looked at: the beauty, else the first that has colour. */
function colourPass(brief: Brief): BriefPass {
  return brief.passes.find(({ role }) => role === 'beauty') ?? brief.passes.find(({ role }) => role === 'light') ?? brief.passes[0]!;
}

async function findTestFiles(folder: string): Promise<TestFile[]> {
  const { files } = await listFolder(folder, { stats: false });
  const pictures = files.filter((file) => file.kind === 'file' && isPictureExtension(file.path.slice(file.path.lastIndexOf('.') + 1)));
  if (pictures.length > MOST_FILES) {
    throw new MintError('too-many-files', `The folder holds ${pictures.length} pictures; test frames are ${MOST_FILES} at most.`, {
      subject: folder,
      remedy: 'Put the renders of one frame into a folder of their own.',
    });
  }
  return pictures.map(({ path: name }) => ({ name })).sort((a, b) => (a.name < b.name ? -1 : 1));
}

async function measure(task: MeasureTask, control: JobControl): Promise<Measured | null> {
  control.report({ phase: 'measuring', done: 0, total: task.files.length, bytesDone: 0, bytesTotal: 0 });
  const pool = new Piscina<MeasureTask, ReturnType<typeof measureFiles>>({ filename: path.join(servicesFolder(), 'measure-worker.js'), maxThreads: 1 });
  try {
    const measured = await pool.run(task);
    if ('error' in measured) throw new MintError(measured.error.code, measured.error.message, { remedy: measured.error.remedy });
    return control.stopReason === null ? measured : null;
  } finally {
    await pool.destroy();
  }
}

/** Has the frame rendered twice at every number of samples, one after the other on the quickest machine. */
async function renderTests(
  service: RenderService,
  brief: Brief,
  pass: BriefPass,
  request: { frame: number; samples: readonly number[] },
  folder: string,
  control: JobControl,
): Promise<TestFile[] | null> {
  const machine = await quickestMachine(service);
  const { command, tokens } = await service.describe();
  const extension = /\.[A-Za-z0-9]+$/.exec(pass.pattern)?.[0] ?? '.exr';
  const tasks = request.samples.flatMap((samples) =>
    Array.from({ length: RENDERS_EACH }, (_, turn) => {
      const name = `test_${samples}_${turn + 1}`;
      const tested = { ...brief, passes: [{ ...pass, pattern: `${name}.####${extension}` }] };
      return { id: randomUUID(), name, samples, command: fillFromBrief(command, tested, tokens, { samples, seed: 1 + turn }) };
    }),
  );
  // Time goes by samples, not by frames; they stand where other jobs have their bytes.
  const work = tasks.reduce((sum, { samples }) => sum + samples, 0);
  const report = (done: number) => {
    const workDone = tasks.slice(0, done).reduce((sum, { samples }) => sum + samples, 0);
    control.report({ phase: 'rendering', done, total: tasks.length, bytesDone: workDone, bytesTotal: work });
  };
  report(0);
  const files: TestFile[] = [];
  try {
    for (const { id, command: filled } of tasks) await service.takeTask(id, { folder, machine, frames: [request.frame], command: filled, priority: 100 });
    for (const { id, name } of tasks) {
      const seconds = await untilRendered(service, id, name, control);
      if (seconds === null) return null;
      files.push({ name: `${name}.${String(request.frame).padStart(4, '0')}${extension}`, seconds });
      report(files.length);
    }
  } finally {
    // Whatever is not needed any more must not keep the machine from the shots.
    await Promise.allSettled(tasks.map(({ id }) => service.control(id, { action: 'stop', when: 'now' })));
  }
  return files;
}

/** Seconds that the task's one frame took; null when the job is to stop. */
async function untilRendered(service: RenderService, id: string, name: string, control: JobControl): Promise<number | null> {
  for (;;) {
    if (control.stopReason !== null) return null;
    const task = await service.status(id, 0);
    if (!task) throw new MintError('task-lost', `${service.name} was started anew while it rendered the test frames.`, { remedy: 'Measure again.' });
    const frame = task.frames[0]!;
    if (frame.state === 'done') return frame.seconds ?? 0;
    if (frame.state === 'failed' || frame.state === 'stopped') {
      throw new MintError('test-failed', `${service.name} could not render ${name}: ${task.lines.at(-1)?.text ?? frame.state}.`, {
        remedy: 'Try again, or choose other samples.',
      });
    }
    await sleep(LOOK_EVERY);
  }
}

async function quickestMachine(service: RenderService): Promise<string> {
  const up = (await service.machines()).filter(({ state }) => state === 'idle' || state === 'rendering');
  if (up.length === 0) throw new MintError('no-machine', `No machine of ${service.name} is up.`, { remedy: 'Restart one, then measure again.' });
  return up.reduce((best, machine) => (machine.speed > best.speed ? machine : best)).name;
}
