import path from 'node:path';
import {
  assignFiles,
  LossSum,
  memorySource,
  MintError,
  parseFrameSet,
  planConvert,
  recogniseFormat,
  sayLoss,
  workOutOrder,
  type Brief,
  type ListedFile,
  type MendPlan,
  type MendStep,
  type MendWish,
  type Order,
} from '@mint-tally/core';
import { listFolder } from '../files/list-folder.ts';
import { codecTools } from '../inspection/codec-tools.ts';
import { withFile } from '../inspection/inspect-file.ts';
import { makeFrame } from './make-frame.ts';

/** So many frames of each pass are made for the preview: the first, the middle one, the last. */
const LOOKED_AT = 3;

interface ConversionOptions {
  /** Real path. */
  readonly folder: string;
  readonly brief: Brief;
  readonly wish: Extract<MendWish, { kind: 'convert' }>;
  readonly now: number;
  readonly onProgress: (done: number, total: number) => void;
  readonly isStopped: () => boolean;
}

/** What a conversion would do, with what is lost by it. */
interface ConversionPlan extends MendPlan {
  readonly refused: [];
  readonly words: [];
  readonly notes: readonly string[];
  /** Files of the shot's folder. */
  readonly files: readonly ListedFile[];
}

/**
 * Works out what is made of which frames, and makes some of them to measure what is lost. Null when it was stopped.
 *
 * @throws FileAccessError, and whatever keeps a sample from being made
 */
export async function workOutConversion(options: ConversionOptions): Promise<ConversionPlan | null> {
  const { folder, brief, wish, now, onProgress, isStopped } = options;
  const order = workOutOrder(brief);
  const { files } = await listFolder(folder, { stats: true });
  const assignment = assignFiles(order, files, now);
  const channels = new Map<number, readonly string[]>();
  const channelsOf = (owner: number) => {
    const known =
      channels.get(owner) ??
      readChannels(
        folder,
        [...assignment.claims[owner]!.values()].flat().map(({ file }) => file.path),
      );
    channels.set(owner, known);
    return known;
  };
  const frames = parseFrameSet(wish.frames);
  const plan = planConvert(order, assignment, { frames, passes: wish.passes }, wish.to, channelsOf);
  const samples = samplesOf(order, plan.steps);
  const notes: string[] = [];
  let done = 0;
  const total = samples.reduce((sum, { steps }) => sum + steps.length, 0);
  for (const { what, steps } of samples) {
    const loss = new LossSum();
    for (const step of steps) {
      if (isStopped()) return null;
      const { made, bytes } = await makeFrame(folder, step);
      const source = memorySource(bytes);
      loss.add(made, recogniseFormat(source, path.basename(step.to)).open(source).decode(codecTools).frame);
      onProgress(++done, total);
    }
    notes.push(...sayLoss(what, loss.sum()));
  }
  return { ...plan, refused: [], words: [], notes, files };
}

/** The channels of the first of some files that can be read. @throws MintError where none can */
function readChannels(folder: string, files: readonly string[]): readonly string[] {
  let why: MintError | null = null;
  for (const file of files.slice(0, 20)) {
    try {
      return withFile(folder, file, (source) =>
        recogniseFormat(source, file)
          .open(source)
          .header.channels.map(({ name }) => name),
      );
    } catch (thrown) {
      if (!(thrown instanceof MintError)) throw thrown;
      why = thrown;
    }
  }
  throw why ?? new MintError('nothing-to-convert', 'There are no frames to convert.', { remedy: 'Choose other passes or frames.' });
}

/** Some steps that make something, by what they make. */
function samplesOf(order: Order, steps: readonly MendStep[]): { what: string; steps: MendStep[] }[] {
  const byKind = new Map<string, MendStep[]>();
  for (const step of steps) {
    if (!step.recipe) continue;
    // Names without their numbers.
    const what = step.to.replace(/-?\d+(?=\.[^./]*$)/, '####');
    byKind.set(what, [...(byKind.get(what) ?? []), step]);
  }
  const names = new Map(order.passes.map(({ pass }) => [pass.pattern.replace(/\.[^.]*$/, ''), pass.name]));
  return [...byKind].map(([what, all]) => {
    const places = new Set(Array.from({ length: LOOKED_AT }, (_, i) => Math.round((i * (all.length - 1)) / (LOOKED_AT - 1))));
    return { what: names.get(what.replace(/\.[^.]*$/, '')) ?? what, steps: [...places].map((at) => all[at]!) };
  });
}
