import {
  describeError,
  formatFrameRange,
  FrameSet,
  MintError,
  orderShares,
  parseFrameRange,
  parseFrameSet,
  proveSplit,
  splitAtBorders,
  splitFrames,
  workOutBorders,
  type FrameOrder,
  type Share,
  type SplitRule,
} from '@mint-tally/core';
import type { RemainderView, ServiceChoice, StartRequest } from './batch-view';

/** The queue is shown as so many pieces at most. */
const MOST_PIECES = 60;

/** The name under which people render by themselves, and Mint Tally watches. */
export const WATCHED = '';

interface MachineDraft {
  readonly name: string;
  readonly state: string;
  readonly medianSeconds: number | null;
  chosen: boolean;
  speed: number;
}

/** A split while it is made up: what to render, on which machines, by which rule and in which order. */
export class SplitDraft {
  range = $state('');
  service = $state(WATCHED);
  machines: MachineDraft[] = $state([]);
  /** Names of machines that people start by themselves, for the split. */
  named = $state('');
  rule: SplitRule | 'hand' = $state('speed');
  order: FrameOrder | 'dragged' = $state('forward');
  chunk = $state(8);
  badInRow = $state(3);
  stopBadMachine = $state(true);
  priority = $state(0);
  command = $state('');
  overwrite = $state(false);
  /** Positions at which somebody drew the borders. */
  private drawn: number[] = $state([]);
  /** Frames in the order somebody dragged them into. */
  private queue: number[][] = $state([]);
  private readonly choices: () => readonly ServiceChoice[];
  /** Passes with the frames that are there of each, and whether it is rendered. */
  passes: { readonly name: string; readonly there: FrameSet; chosen: boolean }[] = $state([]);

  constructor(remainder: RemainderView, choices: () => readonly ServiceChoice[]) {
    const [first] = remainder.groups;
    this.range = first?.frames ?? '';
    this.choices = choices;
    // A pass that has all of the frames already need not be rendered for the others' sake.
    this.passes = remainder.passes.map(({ name, there }) => ({
      name,
      there: parseFrameSet(there),
      chosen: first === undefined || first.passes.includes(name),
    }));
    this.chooseService(choices().find(({ problem }) => problem === '')?.name ?? choices()[0]?.name ?? WATCHED);
  }

  /** All that a person has entered, as text: tells whether anybody has touched it. */
  text(): string {
    const { range, service, named, rule, order, chunk, badInRow, stopBadMachine, priority, command, overwrite, drawn, queue } = this;
    const machines = this.machines.map(({ name, chosen, speed }) => [name, chosen, speed]);
    const passes = this.passes.map(({ name, chosen }) => [name, chosen]);
    return JSON.stringify([range, service, named, rule, order, chunk, badInRow, stopBadMachine, priority, command, overwrite, drawn, queue, machines, passes]);
  }

  /** Takes passes and frames of what is left to render. @param overwrites whether what is there is to be rendered again */
  chooseGroup({ passes, frames }: RemainderView['groups'][number], overwrites: boolean): void {
    this.range = frames;
    this.overwrite = overwrites;
    for (const pass of this.passes) pass.chosen = passes.includes(pass.name);
  }

  chooseService(name: string): void {
    this.service = name;
    const choice = this.choices().find((one) => one.name === name);
    this.machines = (choice?.machines ?? []).map((machine) => ({ ...machine, chosen: machine.state !== 'down' }));
    this.command = choice?.command ?? '';
    this.drawn = [];
  }

  readonly fixed: boolean = $derived.by(() => this.choices().find(({ name }) => name === this.service)?.fixed ?? false);

  readonly problem: string = $derived.by(() => this.choices().find(({ name }) => name === this.service)?.problem ?? '');

  /** The frames, or what is wrong with their range. */
  readonly frames: { readonly set: FrameSet; readonly problem: string } = $derived.by(() => {
    if (this.range.trim() === '') return { set: FrameSet.empty, problem: '' };
    try {
      return { set: parseFrameRange(this.range), problem: '' };
    } catch (thrown) {
      if (thrown instanceof MintError) return { set: FrameSet.empty, problem: describeError(thrown) };
      throw thrown;
    }
  });

  readonly chosen: readonly MachineDraft[] = $derived.by(() =>
    this.service === WATCHED ? namedMachines(this.named) : this.machines.filter((machine) => machine.chosen),
  );

  /** Where each machine's run begins and ends; null where frames are dealt in turn. */
  readonly borders: readonly number[] | null = $derived.by(() => {
    const count = this.frames.set.size;
    if (this.rule === 'interleaved' || this.chosen.length === 0) return null;
    if (this.rule === 'hand' && this.drawn.length === this.chosen.length + 1 && this.drawn.at(-1) === count) return this.drawn;
    return workOutBorders(
      count,
      this.chosen.map(({ speed }) => (this.rule === 'even' ? 1 : Math.max(0.01, speed))),
    );
  });

  readonly shares: readonly Share[] = $derived.by(() => {
    const { set } = this.frames;
    if (this.chosen.length === 0) return [];
    const shares = this.borders ? splitAtBorders(set, this.chosen, this.borders) : splitFrames(set, this.chosen, 'interleaved', this.chunk);
    return this.order === 'dragged' ? this.inQueueOrder(shares) : orderShares(shares, this.order);
  });

  readonly proof = $derived.by(() => proveSplit(this.frames.set, this.shares));

  /** Frames that are there, and would be written over. */
  readonly overwritten: readonly { pass: string; frames: FrameSet }[] = $derived.by(() => {
    if (this.service === WATCHED) return [];
    const chosen = this.passes.filter((pass) => pass.chosen);
    return chosen.map(({ name, there }) => ({ pass: name, frames: there.intersection(this.frames.set) })).filter(({ frames }) => !frames.isEmpty);
  });

  /** Why it cannot begin; empty when it can. */
  readonly hindrance: string = $derived.by(() => {
    if (this.frames.problem !== '') return 'The range cannot be read.';
    if (this.frames.set.isEmpty) return 'No frame is chosen.';
    if (this.problem !== '') return this.problem;
    if (this.chosen.length === 0) return 'Choose at least one machine.';
    if (!this.proof.holds) return 'The split does not hold.';
    if (!this.passes.some((pass) => pass.chosen)) return 'Choose at least one pass.';
    if (this.overwritten.length > 0 && !this.overwrite) return 'Frames that are there would be written over.';
    return '';
  });

  /** Whether every chosen machine has done frames, so that their speeds are known. */
  readonly hasTypicalTimes: boolean = $derived.by(
    () => this.machines.some(({ chosen }) => chosen) && this.machines.every(({ chosen, medianSeconds }) => !chosen || medianSeconds !== null),
  );

  /** Takes the machines' middle frames for their speeds; the quickest has 1. */
  takeSpeedsFromTimes(): void {
    const quickest = Math.min(...this.machines.flatMap(({ chosen, medianSeconds }) => (chosen && medianSeconds !== null ? [medianSeconds] : [])));
    for (const machine of this.machines)
      if (machine.chosen && machine.medianSeconds !== null) machine.speed = Number((quickest / machine.medianSeconds).toFixed(2));
    this.rule = 'speed';
  }

  /** Moves the border between two machines to a position in the frames. */
  moveBorder(index: number, position: number): void {
    if (!this.borders) return;
    const next = [...this.borders];
    next[index] = Math.min(next[index + 1], Math.max(next[index - 1], Math.round(position)));
    this.drawn = next;
    this.rule = 'hand';
  }

  /** The frames in pieces, in the order in which they are rendered. */
  readonly pieces: readonly (readonly number[])[] = $derived.by(() => (this.order === 'dragged' ? this.queue : cut([...this.frames.set], this.chunk)));

  /** Takes over an order that somebody dragged or keyed the pieces into. */
  setPieces(pieces: readonly (readonly number[])[]): void {
    this.queue = pieces.map((piece) => [...piece]);
    this.order = 'dragged';
  }

  private inQueueOrder(shares: readonly Share[]): Share[] {
    const turn = new Map(this.queue.flat().map((frame, i) => [frame, i]));
    return shares.map(({ machine, frames }) => ({
      machine,
      frames: [...frames].sort((a, b) => (turn.get(a) ?? Infinity) - (turn.get(b) ?? Infinity) || a - b),
    }));
  }

  request(): StartRequest {
    const { service, chunk, badInRow, stopBadMachine, priority, overwrite } = this;
    return {
      service: service === WATCHED ? null : service,
      command: this.command.split('\n').filter((line) => line.trim() !== ''),
      shares: this.shares.map(({ machine, frames }) => ({ machine, frames: [...frames] })).filter(({ frames }) => frames.length > 0),
      overwrite,
      passes: this.passes.filter((pass) => pass.chosen).map(({ name }) => name),
      settings: { priority, badInRow, stopBadMachine, chunk },
    };
  }
}

/** Machines by their names; without any, all frames are nobody's in particular. */
function namedMachines(text: string): MachineDraft[] {
  const names = [...new Set(text.split(/[\s,;]+/).filter((name) => name !== ''))];
  return (names.length > 0 ? names : ['']).map((name) => ({ name, state: '', medianSeconds: null, chosen: true, speed: 1 }));
}

function cut(frames: readonly number[], chunk: number): number[][] {
  const size = Math.max(1, chunk, Math.ceil(frames.length / MOST_PIECES));
  return Array.from({ length: Math.ceil(frames.length / size) }, (_, i) => frames.slice(i * size, (i + 1) * size));
}

/** A piece of the queue as people read it. */
export function nameOfPiece(piece: readonly number[]): string {
  return formatFrameRange(FrameSet.of(piece));
}
