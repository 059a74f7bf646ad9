import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { Piscina } from 'piscina';
import type { RenderResult, FrameTask } from '../nodes/render-worker.ts';
import { RAYS_PER_SECOND } from '../service/machine.ts';
import { deviationOf, isLate, isSkipped, plantFaults, sampleShareOf } from './faults.ts';
import { demoShots, DEMO_QUALITY, orderedFile, type DemoShot, type RenderQuality } from './shots.ts';

export interface DemoRenderOptions {
  /** Where the shots' folders go; it must not be there yet. */
  readonly folder: string;
  /** The bundled worker of the render nodes. */
  readonly workerFile: string;
  readonly threads: number;
  /** Smaller and quicker than the demo, for tests. */
  readonly quality?: RenderQuality;
  readonly onProgress?: (done: number, total: number) => void;
  readonly signal?: AbortSignal;
}

/**
 * Renders the demo's shots and plants their faults. The folder appears under its name only when
 * all of it is there; what an earlier, stopped run left is thrown away.
 *
 * @throws what the signal's reason is, when it is aborted
 */
export async function renderDemo(options: DemoRenderOptions): Promise<void> {
  const partial = `${options.folder}.partial`;
  rmSync(partial, { recursive: true, force: true });
  mkdirSync(partial, { recursive: true });
  const tasks = demoShots.flatMap((shot) => planShot(shot, partial, options.quality));
  const pool = new Piscina<FrameTask, RenderResult | null>({ filename: options.workerFile, maxThreads: options.threads, minThreads: options.threads });
  try {
    let done = 0;
    const waiting = tasks.values();
    const node = async () => {
      for (const task of waiting) {
        await pool.run(task, { signal: options.signal });
        options.onProgress?.(++done, tasks.length);
      }
    };
    await Promise.all(Array.from({ length: options.threads }, node));
  } finally {
    await pool.destroy();
  }
  plantFaults(partial);
  renameSync(partial, options.folder);
}

/** The frames that the farm renders of a shot, one task a frame and resolution. */
export function planShot(shot: DemoShot, folder: string, quality: RenderQuality = DEMO_QUALITY): FrameTask[] {
  const tasks: FrameTask[] = [];
  const step = 1 / (shot.last - shot.first + 1);
  for (let frame = shot.first; frame <= shot.renderedTo; frame++) {
    if (isSkipped(shot, frame)) continue;
    const byShrink = new Map<number, FrameTask['files'][number][]>();
    for (const pass of shot.passes) {
      const { shrink = 1, file } = deviationOf(shot, pass, frame);
      byShrink.set(shrink, [...(byShrink.get(shrink) ?? []), { ...orderedFile(shot, pass, frame), ...file }]);
    }
    const host = shot.machines.findLast(([from]) => frame >= from)![1];
    const samples = Math.max(1, Math.round(quality.samples * sampleShareOf(shot, frame)));
    const late = shot.passes.find((pass) => isLate(shot, pass, frame));
    for (const [shrink, files] of byShrink) {
      const settings = {
        view: shot.view,
        time: (frame - shot.first) * step,
        step,
        width: quality.width / shrink,
        height: quality.height / shrink,
        samples,
        seed: shot.seed,
      };
      tasks.push({
        folder,
        settings,
        ...(late && { lagging: { pass: late, settings: { ...settings, time: settings.time - step } } }),
        notes: { host, samples, frame, camera: 'keeper', version: shot.version.replace('_', '') },
        raysPerSecond: RAYS_PER_SECOND,
        files,
      });
    }
  }
  return tasks;
}
