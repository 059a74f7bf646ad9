import { closeSync, writeSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { openAnew } from '@mint-tally/disk';
import type { Piscina } from 'piscina';
import { SAMPLES_DONE, STOP, type RenderResult, type FrameTask } from '../nodes/render-worker.ts';
import { filesOf, type RenderCommand } from './command.ts';
import { COLD_FRAMES, faultOf, type FaultKind } from './faults.ts';

/** Rays a second of a machine of speed 1. Slow enough that several machines share two cores. */
export const RAYS_PER_SECOND = 1_200_000;
/** A file is written in this many pieces, so that somebody may come upon it half written. */
const PIECES = 4;
const PIECE_PAUSE = 15;
const LOOK_EVERY = 50;

/** How a machine came out of a frame. */
export type FrameEnd = 'done' | 'failed' | 'stopped' | 'power-loss';

/** A frame in work: whoever holds it may stop it and see how far it is. */
export class FrameWork {
  readonly frame: number;
  readonly startedAt = new Date();
  private readonly control = new Int32Array(new SharedArrayBuffer(8));
  private readonly samples: number;

  constructor(frame: number, samples: number) {
    this.frame = frame;
    this.samples = samples;
  }

  stop(): void {
    Atomics.store(this.control, STOP, 1);
  }

  get stopped(): boolean {
    return Atomics.load(this.control, STOP) !== 0;
  }

  get share(): number {
    return Math.min(1, Atomics.load(this.control, SAMPLES_DONE) / this.samples);
  }

  get shared(): Int32Array {
    return this.control;
  }
}

/** Renders one frame on a machine, with whatever its plan lets go wrong, in the machine's own time. */
export async function renderOn(
  machine: { name: string; speed: number; framesSinceStart: number },
  command: RenderCommand,
  work: FrameWork,
  folder: string,
  pool: Piscina<FrameTask, RenderResult | null>,
  say: (text: string) => void,
): Promise<FrameEnd> {
  const fault = faultOf(command.faults, machine.name, work.frame, machine.framesSinceStart);
  const began = Date.now();
  if (fault === 'hang') {
    say(`frame ${work.frame}: 0 %`);
    while (!work.stopped) await sleep(LOOK_EVERY);
    return 'stopped';
  }
  const raysPerSecond = RAYS_PER_SECOND * machine.speed;
  const task = taskOf(machine.name, command, work, fault, machine.framesSinceStart, raysPerSecond);
  const result = await pool.run(task);
  if (!result) return 'stopped';
  // The machine is as slow as it is said to be, however quick this computer was with its frame.
  const until = began + (result.segments / raysPerSecond) * 1000;
  while (Date.now() < until) {
    if (work.stopped) return 'stopped';
    if (fault === 'power-loss' && Date.now() > began + (until - began) / 2) return 'power-loss';
    await sleep(Math.min(LOOK_EVERY, until - Date.now()));
  }
  if (fault === 'power-loss') return 'power-loss';
  if (fault !== 'skip') {
    for (const file of result.files) if (!(await writeFile(folder, file.path, file.bytes, fault, work))) return 'stopped';
  }
  say(`frame ${work.frame}: ${result.samples} samples, ${((Date.now() - began) / 1000).toFixed(2)} s`);
  return fault === 'cut-short' ? 'failed' : 'done';
}

function taskOf(host: string, command: RenderCommand, work: FrameWork, fault: FaultKind | null, framesSinceStart: number, raysPerSecond: number): FrameTask {
  const { view, seed, seconds, version, first, last } = command;
  const step = 1 / (last - first + 1);
  const shrink = fault === 'half-size' ? 2 : 1;
  const divide = fault === 'fewer-samples' ? 4 : fault === 'cold-start' ? 2 ** (COLD_FRAMES - framesSinceStart) : 1;
  const settings = {
    view:
      fault === 'other-camera'
        ? { ...view, turn: view.turn + 0.7, height: view.height + 0.6 }
        : fault === 'old-version'
          ? { ...view, spread: view.spread * 1.06 }
          : view,
    time: (work.frame - first) * step,
    step,
    width: Math.ceil(command.width / shrink),
    height: Math.ceil(command.height / shrink),
    samples: Math.max(1, Math.round(command.samples / divide)),
    seed,
    ...(seconds === null ? {} : { segments: (seconds * RAYS_PER_SECOND) / divide }),
    occlusion: command.passes.some(({ file }) => file.pass === 'occlusion'),
    halves: command.passes.some(({ file }) => file.pass === 'half1' || file.pass === 'half2'),
  };
  const files = filesOf(command, work.frame);
  const late = fault === 'lagging-pass' ? files.at(-1)! : null;
  return {
    settings,
    notes: {
      host,
      samples: settings.samples,
      frame: work.frame,
      camera: fault === 'other-camera' ? 'gallery' : 'keeper',
      version: fault === 'old-version' ? earlierVersion(version) : version,
    },
    files,
    raysPerSecond,
    ...(late ? { lagging: { pass: late.pass, settings: { ...settings, time: settings.time - step } } } : {}),
    control: work.shared,
    folder: null,
  };
}

function earlierVersion(version: string): string {
  return version.replace(/[0-9]+$/, (digits) => String(Math.max(0, Number(digits) - 1)).padStart(digits.length, '0'));
}

/** Writes as renderers do: in place, piece by piece. False when it was stopped on the way. */
async function writeFile(folder: string, place: string, bytes: Uint8Array, fault: FaultKind | null, work: FrameWork): Promise<boolean> {
  const whole = fault === 'empty-file' ? 0 : fault === 'cut-short' ? Math.floor(bytes.length * 0.6) : bytes.length;
  const descriptor = openAnew(folder, place);
  try {
    for (let piece = 0; piece < PIECES; piece++) {
      if (work.stopped) return false;
      const [from, to] = [Math.floor((whole * piece) / PIECES), Math.floor((whole * (piece + 1)) / PIECES)];
      if (to > from) writeSync(descriptor, bytes, from, to - from);
      if (piece < PIECES - 1) await sleep(PIECE_PAUSE);
    }
  } finally {
    closeSync(descriptor);
  }
  return true;
}
