import type { ShotView } from '$lib/shot/shot-view.svelte';
import type { Course } from './course';
import { alignedFrame, type OtherFolder } from './other-folder';
import { PictureCache, type Held } from './picture-cache.svelte';
import { NO_PICTURES, pictureAddress, pictureListSchema, type ListHad, type PictureChoice, type PictureList } from './picture-list';
import type { ViewSettings } from './view-settings.svelte';
import type { ShownShot } from './viewing.svelte';

const BUDGET_KEY = 'mint-tally-view-memory';
const USUAL_BUDGET = 2 ** 30;
export const BUDGETS: readonly number[] = [2 ** 28, 2 ** 29, 2 ** 30, 2 ** 31, 2 ** 32, 2 ** 33];

/** What a picture is compared with. */
export type Partner =
  | { readonly kind: 'frame'; readonly offset: number }
  | { readonly kind: 'pass'; readonly pass: string }
  | { readonly kind: 'other'; readonly other: OtherFolder };

/** The pictures that the viewer shows: where they are to be had, and those that are in memory. */
export class ShownPictures {
  readonly cache: PictureCache;
  /** Of the pass or the folder that it is compared with. */
  readonly partnerCache = new PictureCache(0);
  /** Bytes that all pictures together may take. */
  budget: number = $state(USUAL_BUDGET);
  list: ListHad = $state.raw(NO_PICTURES);
  partnerList: ListHad = $state.raw(NO_PICTURES);
  /** Why the list of files could not be had; empty when it could. */
  problem: string = $state('');
  /** A missing frame shows its neighbour before it, said as such, instead of its gap. */
  holdsMissing: boolean = $state(false);

  private readonly view: ShotView;
  private readonly shown: Pick<ShownShot, 'id' | 'order'>;
  private readonly settings: ViewSettings;

  constructor(view: ShotView, shown: Pick<ShownShot, 'id' | 'order'>, settings: ViewSettings, stored: Storage | null) {
    this.view = view;
    this.shown = shown;
    this.settings = settings;
    const budget = Number(stored?.getItem(BUDGET_KEY));
    if (BUDGETS.includes(budget)) this.budget = budget;
    this.cache = new PictureCache(this.budget);
  }

  private get address(): string {
    return `/shots/${this.shown.id()}`;
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

  readonly partner: Partner | null = $derived.by(() => {
    const [kind, value = ''] = this.settings.against.split(/:(.*)/s);
    if (kind === 'frame') return { kind, offset: Number(value) };
    if (kind === 'other') return this.settings.other && { kind, other: this.settings.other };
    const isThere = kind === 'pass' && value !== this.view.pass && this.shown.order().passes.some(({ pass }) => pass.name === value);
    return isThere ? { kind, pass: value } : null;
  });

  private readonly partnerEntries: ReadonlyMap<number, number> = $derived.by(() => new Map(this.partnerList.frames.map((frame, entry) => [frame, entry])));

  /** The frame of the pass or the folder that it is compared with, for a column. */
  private partnerFrame(column: number): number {
    const { partner, view, settings } = this;
    const { frames } = view.model;
    if (partner?.kind !== 'other') return frames[column]!;
    return alignedFrame(frames[column]!, frames[0] ?? 0, partner.other, settings.align, settings.alignOffset);
  }

  /** How many of some columns have a partner. */
  partnersOf(columns: Int32Array): number {
    return columns.reduce((sum, column) => sum + (this.partnerEntries.has(this.partnerFrame(column)) ? 1 : 0), 0);
  }

  /** What is known of the picture that a column is compared with; null while it is not known, or nothing is compared. */
  partnerHeld(column: number): Held | null {
    const { partner } = this;
    if (!partner) return null;
    if (partner.kind !== 'frame') {
      if (this.partnerEntries.get(this.partnerFrame(column)) !== undefined) return this.partnerCache.get(column);
      const name = partner.kind === 'pass' ? partner.pass : partner.other.sequence.name;
      return { why: `${name} has no file for frame ${this.partnerFrame(column)}.` };
    }
    const other = column + partner.offset;
    if (this.entryOf(other) === null) return { why: `There is no frame ${Math.abs(partner.offset)} ${partner.offset > 0 ? 'on' : 'back'}.` };
    return this.cache.get(other);
  }

  /** Whether all that a column needs stands in memory, or will never come. */
  isReady(column: number): boolean {
    if (!this.cache.has(column) && this.entryOf(column) !== null && this.cache.get(column) === null) return false;
    return this.partner === null || this.partnerHeld(column) !== null;
  }

  /** Reads which files a pass shows. */
  loadList(pass: string, signal: AbortSignal, which: 'list' | 'partnerList' = 'list'): Promise<void> {
    return this.loadFrom(this.listAddress(pass), signal, which);
  }

  /** Reads which files another folder shows. */
  loadOther(other: OtherFolder, signal: AbortSignal): Promise<void> {
    return this.loadFrom(this.otherAddress(other), signal, 'partnerList');
  }

  private listAddress(pass: string): string {
    return `${this.address}/pictures?${new URLSearchParams({ pass }).toString()}`;
  }

  private otherAddress({ root, folder, sequence }: OtherFolder): string {
    return `${this.address}/other?${new URLSearchParams({ root, folder, sequence: sequence.name }).toString()}`;
  }

  private async loadFrom(address: string, signal: AbortSignal, which: 'list' | 'partnerList'): Promise<void> {
    try {
      const response = await fetch(address, { signal });
      if (!response.ok) throw new Error('The server does not say which files there are.');
      this[which] = { from: address, ...pictureListSchema.parse(await response.json()) };
      this.problem = '';
    } catch (thrown) {
      if (signal.aborted) return;
      this.problem = thrown instanceof Error ? thrown.message : String(thrown);
    }
  }

  /** Tells the caches where pictures come from, and shares the memory among them. */
  connect(pass: string): void {
    const { only, reduce, fetched } = this.settings;
    const { partner, budget } = this;
    const isTwo = partner !== null && partner.kind !== 'frame';
    this.cache.setBudget(isTwo ? budget / 2 : budget);
    this.partnerCache.setBudget(isTwo ? budget / 2 : 0);
    const { frames } = this.view.model;
    const own = { only: only === null ? null : [only], reduce, region: fetched, elsewhere: null };
    const { list, entries, partnerList, partnerEntries } = this;
    // While a pass's own list is on its way, that of the pass before is none of its.
    this.feed(this.cache, pass, list, (column) => (list.from === this.listAddress(pass) ? entries.get(frames[column]!) : undefined), own);
    if (!isTwo) return;
    const elsewhere = partner.kind === 'other' ? { root: partner.other.root, folder: partner.other.folder } : null;
    const partnerPass = partner.kind === 'pass' ? partner.pass : pass;
    const partnerFrom = partner.kind === 'other' ? this.otherAddress(partner.other) : this.listAddress(partnerPass);
    // As it is aligned now: what was fetched in another alignment is told from it by its address.
    const partnerFrames = frames.map((_, column) => this.partnerFrame(column));
    const partnerEntry = (column: number) => (partnerList.from === partnerFrom ? partnerEntries.get(partnerFrames[column]!) : undefined);
    this.feed(this.partnerCache, partnerPass, partnerList, partnerEntry, {
      only: null,
      reduce,
      region: null,
      elsewhere,
    });
  }

  private feed(cache: PictureCache, pass: string, list: PictureList, entryOf: (column: number) => number | undefined, choice: PictureChoice): void {
    const shotId = this.shown.id();
    cache.source(JSON.stringify([shotId, pass, choice]), (column) => {
      const entry = entryOf(column);
      return entry === undefined ? null : pictureAddress(shotId, pass, list, entry, choice);
    });
  }

  /** Tells the caches what is looked at, and what comes next: the columns that are gone through. */
  look(column: number, seen: Course, direction: 1 | -1, plays: boolean): void {
    const { partner } = this;
    const offset = partner?.kind === 'frame' ? partner.offset : 0;
    this.cache.look(column, direction, seen.withNeighbours(offset, this.view.model.frames.length), plays);
    if (partner && partner.kind !== 'frame') this.partnerCache.look(column, direction, seen, plays);
  }

  keepBudget(bytes: number, stored: Storage | null): void {
    stored?.setItem(BUDGET_KEY, String(bytes));
    this.budget = bytes;
  }

  close(): void {
    this.cache.close();
    this.partnerCache.close();
  }
}
