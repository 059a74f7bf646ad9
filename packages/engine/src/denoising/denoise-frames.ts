import type { LeftIn } from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import { isJoined, placesAround } from './companions.ts';
import type { FilteredPicture } from './filter-one.ts';
import type { DenoisedFrame, DenoiseTask } from './finish-one.ts';
import { Hands, type StepDone } from './steps.ts';

/** Fewer frames than this are filtered by whoever asks: a thread takes longer to begin. */
const FEW_FRAMES = 3;

/** How frames are denoised, and who looks after them meanwhile. */
export interface DenoiseCare {
  readonly threads: number;
  /** Whoever asks has other things to do: even few frames get threads of their own. */
  readonly apart: boolean;
  /** Told after each frame that is written. */
  readonly onFrame: () => void;
  /** Asked before each step; when it says so, nothing further is begun. */
  readonly isStopped: () => boolean;
}

/** What became of all frames. */
export interface DenoisedFrames {
  readonly frames: readonly DenoisedFrame[];
  /** Frames that were filtered, those beside the wanted ones too. */
  readonly filtered: number;
  /** Of a thread, for a frame of many. */
  readonly secondsEach: number;
  /** Whether it was stopped before all were done. */
  readonly isStopped: boolean;
}

/**
 * Denoises frames and writes them. As many as there are threads are worked on at a time; each is filtered once, whoever
 * needs it, and held for no longer than somebody does.
 *
 * @param places of the wanted frames among those of the task, in order
 * @throws FileAccessError, NotRewrittenError
 */
export async function denoiseFrames(task: DenoiseTask, places: readonly number[], care: DenoiseCare): Promise<DenoisedFrames> {
  // Where nothing can be written, that is told before anything is filtered.
  const outs = new Set(task.files.flatMap((files) => files.map(({ out }) => out)));
  for (const out of [...outs, ...(task.ghosts === null ? [] : [task.ghosts])]) HeldFolder.open(task.limit, out).close();
  const all = new Set(places.flatMap((at) => placesAround(task, at, task.reach))).size;
  const hands = await Hands.of(care.threads, care.apart || (care.threads > 1 && all > FEW_FRAMES));
  try {
    return await new FramesAtWork(task, places, care, hands).all();
  } finally {
    await hands.close();
  }
}

class FramesAtWork {
  private readonly task: DenoiseTask;
  private readonly places: readonly number[];
  private readonly care: DenoiseCare;
  private readonly hands: Hands;
  private readonly around: ReadonlyMap<number, readonly number[]>;
  /** How many still need each filtered frame: those that it goes along with, and whoever is held against it in time. */
  private readonly needed = new Map<number, number>();
  private readonly filtering = new Map<number, Promise<StepDone<'filter'> | null>>();
  private readonly finished = new Set<number>();
  private readonly left = new Map<number, LeftIn>();
  private readonly done: DenoisedFrame[] = [];
  private readonly differing = new Map<number, Promise<void>>();
  private readonly temporal = new Map<number, number | null>();
  private readonly seconds = { filter: [] as number[], finish: [] as number[] };
  private next = 0;
  private hasFailed = false;
  private readonly isWanted = () => !this.hasFailed && !this.care.isStopped();

  constructor(task: DenoiseTask, places: readonly number[], care: DenoiseCare, hands: Hands) {
    [this.task, this.places, this.care, this.hands] = [task, places, care, hands];
    this.around = new Map(places.map((at) => [at, placesAround(task, at, task.reach)]));
    for (const around of this.around.values()) for (const place of around) this.needed.set(place, (this.needed.get(place) ?? 0) + 1);
    for (const at of places) this.needed.set(at, this.needed.get(at)! + 1);
  }

  async all(): Promise<DenoisedFrames> {
    const lanes = await Promise.allSettled(Array.from({ length: this.hands.count }, () => this.lane()));
    lanes.push(...(await Promise.allSettled(this.differing.values())));
    for (const ended of lanes) if (ended.status === 'rejected') throw ended.reason;
    const frames = this.done.map((frame) => ({ ...frame, temporalNoise: this.temporalOf(frame.frame) })).sort((a, b) => a.frame - b.frame);
    const { filter, finish } = this.seconds;
    const secondsEach = this.usual(filter) + this.usual(finish);
    return { frames, filtered: filter.length, secondsEach, isStopped: frames.length < this.places.length };
  }

  /** Takes the frames that nobody works on yet, one after the other. The others end with the step that they are at when one fails. */
  private async lane(): Promise<void> {
    try {
      while (this.next < this.places.length && this.isWanted()) await this.one(this.places[this.next++]!);
    } catch (thrown) {
      this.hasFailed = true;
      throw thrown;
    }
  }

  private async one(at: number): Promise<void> {
    const around = this.around.get(at)!;
    const filtered = await Promise.all(around.map(async (place) => [place, await this.filtered(place)] as const));
    const pictures = new Map<number, FilteredPicture | null>();
    for (const [place, step] of filtered) {
      if (!step) return;
      pictures.set(place, step.outcome);
    }
    const finished = await this.hands.run('finish', this.isWanted, this.taskAround(at), at - this.firstAround(at), this.placedAround(at, pictures));
    if (!finished) return;
    const { told, left } = finished.outcome;
    const own = filtered.find(([place]) => place === at)![1]!;
    this.seconds.finish.push(finished.seconds);
    this.done.push({ ...told, temporalNoise: null, seconds: own.seconds + finished.seconds });
    this.finished.add(at);
    for (const place of around) this.letGo(place);
    const picture = pictures.get(at);
    if (picture && left) this.compare(at, picture, left);
    else this.letGo(at);
    this.settle();
    this.care.onFrame();
  }

  private filtered(place: number): Promise<StepDone<'filter'> | null> {
    let filtering = this.filtering.get(place);
    if (!filtering) {
      filtering = this.hands.run('filter', this.isWanted, this.taskAround(place), place - this.firstAround(place)).then((step) => {
        if (step) this.seconds.filter.push(step.seconds);
        return step;
      });
      this.filtering.set(place, filtering);
    }
    return filtering;
  }

  /** The memory of what nobody needs any more is used for others. */
  private letGo(place: number): void {
    const needed = this.needed.get(place)! - 1;
    this.needed.set(place, needed);
    if (needed > 0) return;
    void this.filtering.get(place)?.then((step) => this.hands.takeBack(step?.outcome));
    this.filtering.delete(place);
  }

  /** Holds what is left of a frame's noise against that of the frame before, and of the one behind, as far as they are done. */
  private compare(at: number, { width, height, depth, normal, motion }: FilteredPicture, left: Float32Array): void {
    this.left.set(at, { width, height, depth, normal, motion, left });
    for (const place of [at, at + 1]) {
      const [own, before] = [this.left.get(place), this.left.get(place - 1)];
      if (!own || !before || !isJoined(this.task, place - 1)) continue;
      const differing = this.differ(place, own, before);
      // Told when all are done; until then nobody waits for it.
      differing.catch(() => undefined);
      this.differing.set(place, differing);
    }
  }

  /** Lets go what is left of frames that lie between two that are done: they have been held against both. */
  private settle(): void {
    const isSettled = (place: number) => !this.around.has(place) || this.finished.has(place);
    for (const [place, { left }] of this.left) {
      if (!isSettled(place - 1) || !isSettled(place + 1)) continue;
      this.left.delete(place);
      void Promise.allSettled([this.differing.get(place), this.differing.get(place + 1)]).then(() => {
        this.hands.takeBack(left);
        this.letGo(place);
      });
    }
  }

  private async differ(at: number, own: LeftIn, before: LeftIn): Promise<void> {
    const difference = await this.hands.run('differ', () => true, own, before);
    this.temporal.set(this.task.frames[at]!.frame, difference!.outcome);
  }

  /** The first of a row has none before it: the next one tells as much. */
  private temporalOf(frame: number): number | null {
    return this.temporal.get(frame) ?? this.temporal.get(frame + this.task.step) ?? null;
  }

  /** Of some steps, without the first of each thread, which makes everything warm. */
  private usual(seconds: readonly number[]): number {
    const warm = seconds.length > this.hands.count ? seconds.slice(this.hands.count) : seconds;
    return warm.reduce((sum, one) => sum + one, 0) / Math.max(1, warm.length);
  }

  private firstAround(at: number): number {
    return Math.max(0, at - this.task.reach - 1);
  }

  /** Only the frames that a step needs go along. */
  private taskAround(at: number): DenoiseTask {
    const own = <One>(list: readonly One[]) => list.slice(this.firstAround(at), at + this.task.reach + 2);
    const { frames, sigmas, names, files, references } = this.task;
    return { ...this.task, frames: own(frames), sigmas: own(sigmas), names: own(names), files: own(files), references: own(references) };
  }

  private placedAround(at: number, pictures: ReadonlyMap<number, FilteredPicture | null>): Map<number, FilteredPicture | null> {
    return new Map([...pictures].map(([place, picture]) => [place - this.firstAround(at), picture]));
  }
}
