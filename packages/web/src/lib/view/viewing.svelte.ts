import { parseFrameRate, type FrameRate, type Order, type SentPicture } from '@mint-tally/core';
import type { ShotView } from '$lib/shot/shot-view.svelte';
import type { ReadAs } from './drawn';
import { NO_PICTURES, pictureAddress, pictureListSchema, type PictureList } from './picture-list';
import { PictureCache } from './picture-cache.svelte';
import { Player, type Played } from './player.svelte';
import { ViewSettings } from './view-settings.svelte';

/** What a shot is played at where its brief says nothing. */
const USUAL_RATE: FrameRate = { numerator: 24, denominator: 1 };
const BUDGET_KEY = 'mint-tally-view-memory';
const USUAL_BUDGET = 2 ** 30;
export const BUDGETS: readonly number[] = [2 ** 28, 2 ** 29, 2 ** 30, 2 ** 31, 2 ** 32, 2 ** 33];

/** Frames of the rate that each column lasts: of a range with a step, the step. */
export function holdOf(frames: ArrayLike<number>): number {
  let least = Infinity;
  for (let i = 1; i < frames.length; i++) least = Math.min(least, frames[i]! - frames[i - 1]!);
  return Number.isFinite(least) ? least : 1;
}

/** Everything that the viewer of one shot works with: what is looked at, how, and how it plays. */
export class Viewing {
  readonly settings = new ViewSettings();
  readonly cache: PictureCache;
  readonly player: Player;
  list: PictureList = $state.raw(NO_PICTURES);
  /** Why the list of files could not be had; empty when it could. */
  problem: string = $state('');
  /** A rate on trial instead of the ordered one. */
  trial: FrameRate | null = $state.raw(null);
  /** A missing frame shows its neighbour before it, said as such, instead of its gap. */
  holdsMissing: boolean = $state(false);
  /** The pixel under the pointer, in the display window; null outside. */
  pointed: readonly [number, number] | null = $state.raw(null);

  private readonly shotId: () => number;
  private readonly order: () => Order;
  private readonly view: ShotView;

  constructor(view: ShotView, shotId: () => number, order: () => Order, stored: Storage | null) {
    this.view = view;
    this.shotId = shotId;
    this.order = order;
    const budget = Number(stored?.getItem(BUDGET_KEY));
    this.cache = new PictureCache(BUDGETS.includes(budget) ? budget : USUAL_BUDGET);
    this.player = new Player(() => this.played);
  }

  readonly orderedRate: FrameRate | null = $derived.by(() => {
    const { fps } = this.order().brief;
    return fps === undefined ? null : parseFrameRate(fps);
  });
  readonly rate: FrameRate = $derived.by(() => this.trial ?? this.orderedRate ?? USUAL_RATE);
  readonly hold: number = $derived.by(() => holdOf(this.view.model.frames));

  /** The columns that are played: the selected stretch, or all. */
  readonly course: readonly [number, number] = $derived.by(() => {
    const runs = this.view.selectedColumns;
    return this.view.selectionSize > 1 ? [runs[0]![0], runs.at(-1)![1]] : [0, this.view.model.frames.length - 1];
  });

  get played(): Played {
    return { course: this.course, rate: this.rate, hold: this.hold };
  }

  private readonly entries: ReadonlyMap<number, number> = $derived.by(() => new Map(this.list.frames.map((frame, entry) => [frame, entry])));

  /** The place in the list of what a column shows; null where no file fills its frame. */
  entryOf(column: number): number | null {
    const frame = this.view.model.frames[column];
    return frame === undefined ? null : (this.entries.get(frame) ?? null);
  }

  /** The column whose picture stands for one: itself, or where asked for, the nearest before it that has a file. */
  shownFor(column: number): number {
    if (!this.holdsMissing || this.entryOf(column) !== null) return column;
    for (let before = column - 1; before >= 0; before--) if (this.entryOf(before) !== null) return before;
    return column;
  }

  /** Reads which files a pass shows. */
  async loadList(pass: string, signal: AbortSignal): Promise<void> {
    try {
      const response = await fetch(`/shots/${this.shotId()}/pictures?${new URLSearchParams({ pass }).toString()}`, { signal });
      if (!response.ok) throw new Error('The server does not say which files there are.');
      this.list = pictureListSchema.parse(await response.json());
      this.problem = '';
    } catch (thrown) {
      if (signal.aborted) return;
      this.problem = thrown instanceof Error ? thrown.message : String(thrown);
    }
  }

  /** Tells the cache where the pictures of a pass come from. */
  connect(pass: string): void {
    const { only, reduce } = this.settings;
    const choice = { only: only === null ? null : [only], reduce };
    const [shotId, list, entries, frames] = [this.shotId(), this.list, this.entries, this.view.model.frames];
    const key = JSON.stringify([shotId, pass, choice]);
    this.cache.source(key, (column) => {
      const entry = entries.get(frames[column]!);
      return entry === undefined ? null : pictureAddress(shotId, pass, list, entry, choice);
    });
  }

  /** How the values of a pass are read: as chosen, else as its role and its channels suggest. */
  readAs(pass: string, picture: SentPicture): ReadAs {
    if (this.settings.readAs) return this.settings.readAs;
    const { type, channels } = picture.info;
    const role = this.order().passes.find((candidate) => candidate.pass.name === pass)?.pass.role;
    if (type === 'uint' || role === 'id') return 'things';
    if (role === 'normal' || role === 'motion') return 'signs';
    if (role === 'depth') return 'range';
    const name = channels[0]!.slice(channels[0]!.lastIndexOf('.') + 1).toUpperCase();
    if (channels.length >= 3) return name === 'X' ? 'signs' : 'colour';
    if (channels.length === 2 && name !== 'Y') return 'signs';
    return name === 'Z' || name === 'DEPTH' ? 'range' : 'colour';
  }

  keepBudget(bytes: number, stored: Storage | null): void {
    stored?.setItem(BUDGET_KEY, String(bytes));
    this.cache.setBudget(bytes);
  }

  /** Plays from the playhead, or stops. */
  toggle(direction: 1 | -1 = 1): void {
    const { player } = this;
    if (player.playing && player.direction === direction) player.stop();
    else player.start(this.view.column, direction);
  }
}
