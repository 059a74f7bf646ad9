import type { AskedTiles } from '$lib/assay/ask-tiles';
import { parseFrameRate, type FrameRate, type Order, type PassEyes, type SentPicture } from '@mint-tally/core';
import type { ShotView } from '$lib/shot/shot-view.svelte';
import { Course } from './course';
import type { ReadAs } from './drawn';
import { PictureCache, type Held } from './picture-cache.svelte';
import { alignedFrame, type OtherFolder } from './other-folder';
import { NO_PICTURES, pictureAddress, pictureListSchema, type ListHad, type PictureChoice, type PictureList } from './picture-list';
import { NORMAL_SPEED, Player, type Played } from './player.svelte';
import { panOf, zoomOf, type Screen } from './drawing';
import { alphaOf, readAs, type AlphaRead } from './reading';
import { SoundTrack } from './sound.svelte';
import { Watching } from './watching.svelte';
import { PIXELS, ViewSettings } from './view-settings.svelte';

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

/** What a picture is compared with. */
export type Partner =
  | { readonly kind: 'frame'; readonly offset: number }
  | { readonly kind: 'pass'; readonly pass: string }
  | { readonly kind: 'other'; readonly other: OtherFolder };

/** What the viewer is told of the shot, as it is at the moment. */
export interface ShownShot {
  readonly id: () => number;
  readonly order: () => Order;
  readonly eyes: () => readonly PassEyes[];
  /** Whoever sits there; empty where no name was given. */
  readonly person: () => string;
  /** Reads the shot anew. */
  readonly renew: () => void;
}

/** Everything that the viewer of one shot works with: what is looked at, how, and how it plays. */
export class Viewing {
  readonly settings = new ViewSettings();
  readonly cache: PictureCache;
  /** Of the pass that it is compared with. */
  readonly partnerCache = new PictureCache(0);
  /** Bytes that all pictures together may take. */
  budget: number = $state(USUAL_BUDGET);
  readonly player: Player;
  readonly sound = new SoundTrack();
  list: ListHad = $state.raw(NO_PICTURES);
  partnerList: ListHad = $state.raw(NO_PICTURES);
  /** Why the list of files could not be had; empty when it could. */
  problem: string = $state('');
  /** A rate on trial instead of the ordered one. */
  trial: FrameRate | null = $state.raw(null);
  /** A missing frame shows its neighbour before it, said as such, instead of its gap. */
  holdsMissing: boolean = $state(false);
  /** Device pixels of the viewer. */
  screen: Screen = $state.raw({ width: 0, height: 0 });
  readonly watching: Watching;
  /** The pixel under the pointer, in the display window; null outside. */
  pointed: readonly [number, number] | null = $state.raw(null);
  /** A pixel whose values are told wherever the pointer is; null for none. */
  pinned: readonly [number, number] | null = $state.raw(null);
  /** Left, top, width and height of a marked region, in the display window; null for none. */
  region: readonly [number, number, number, number] | null = $state.raw(null);
  /** A drag in the picture marks a region. */
  marking: boolean = $state(false);
  /** The noise of the frame's tiles, where it is wanted over the picture. */
  noise: AskedTiles | null = $state.raw(null);
  /** A note is being written. */
  noting: boolean = $state(false);

  /** The sound card is waited for. */
  private starting = false;
  /** Counts the times that somebody wanted it to play or to stop. */
  private wishes = 0;
  private readonly shown: ShownShot;
  private readonly view: ShotView;

  constructor(view: ShotView, shown: ShownShot, stored: Storage | null) {
    this.view = view;
    this.shown = shown;
    const budget = Number(stored?.getItem(BUDGET_KEY));
    if (BUDGETS.includes(budget)) this.budget = budget;
    this.cache = new PictureCache(this.budget);
    this.player = new Player(() => this.played);
    this.watching = new Watching(this, view, shown);
  }

  readonly orderedRate: FrameRate | null = $derived.by(() => {
    const { fps } = this.shown.order().brief;
    return fps === undefined ? null : parseFrameRate(fps);
  });
  readonly rate: FrameRate = $derived.by(() => this.trial ?? this.orderedRate ?? USUAL_RATE);
  readonly hold: number = $derived.by(() => holdOf(this.view.model.frames));

  /** The columns that are played: the selected ones, or all. */
  readonly course: Course = $derived.by(() => {
    const { selectedColumns, selectionSize, model } = this.view;
    if (selectionSize <= 1) return Course.stretch(0, model.frames.length - 1);
    return Course.of(selectedColumns.flatMap(([from, to]) => Array.from({ length: to - from + 1 }, (_, i) => from + i)));
  });

  get played(): Played {
    return { course: this.course, rate: this.rate, hold: this.hold };
  }

  /** Where the shot's own routes are. */
  get address(): string {
    return `/shots/${this.shown.id()}`;
  }

  /** Pins the probe across or down; the other stays, or begins in the corner. */
  pin(side: number, value: number): void {
    if (!Number.isInteger(value)) return;
    const [x, y] = this.pinned ?? [0, 0];
    this.pinned = side === 0 ? [value, y] : [x, value];
  }

  /** Changes one number of the region. */
  setRegionSide(side: number, value: number): void {
    if (!this.region || !Number.isInteger(value) || (side > 1 && value < 1)) return;
    const [left, top, width, height] = this.region.map((old, i) => (i === side ? value : old)) as [number, number, number, number];
    this.region = [left, top, width, height];
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

  /** How many of the columns that are played have a partner. */
  get partners(): number {
    return this.course.columns.reduce((sum, column) => sum + (this.partnerEntries.has(this.partnerFrame(column)) ? 1 : 0), 0);
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

  /** Fetches only what is visible of each frame at 100 % now, or all of it again. */
  toggleFetched(): void {
    const { settings, screen } = this;
    if (settings.fetched) {
      settings.fetched = null;
      return;
    }
    const held = this.cache.get(this.view.column);
    if (!held || !('picture' in held)) return;
    settings.reduce = 1;
    settings.zoom = 1;
    const { picture } = held;
    const { info } = picture;
    const zoom = zoomOf(picture, settings, screen);
    const pan = panOf(picture, settings, screen, zoom);
    const offset = [info.displayWindow[0] - info.dataWindow[0], info.displayWindow[1] - info.dataWindow[1]] as const;
    const from = (side: 0 | 1) => Math.max(0, Math.floor(-pan[side] / zoom[side]) + offset[side]);
    const to = (side: 0 | 1, size: number) => Math.min(info.full[side], Math.ceil((size - pan[side]) / zoom[side]) + offset[side]);
    const [x, y] = [from(0), from(1)];
    settings.fetched = [x, y, Math.max(1, to(0, screen.width) - x), Math.max(1, to(1, screen.height) - y)];
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

  /** Tells the caches what is looked at, and what comes next. */
  look(column: number): void {
    const { partner, player, course } = this;
    const offset = partner?.kind === 'frame' ? partner.offset : 0;
    const seen = course.every(player.every);
    this.cache.look(column, player.direction, seen.withNeighbours(offset, this.view.model.frames.length), player.playing);
    if (partner && partner.kind !== 'frame') this.partnerCache.look(column, player.direction, seen, player.playing);
  }

  /** How the alpha of a pass is read. */
  alphaOf(pass: string, picture: SentPicture | null): AlphaRead {
    return alphaOf(this.shown.order(), this.settings, pass, picture);
  }

  /** How the values of a pass are read. */
  readAs(pass: string, picture: SentPicture): ReadAs {
    return readAs(this.shown.order(), this.settings, pass, picture);
  }

  keepBudget(bytes: number, stored: Storage | null): void {
    stored?.setItem(BUDGET_KEY, String(bytes));
    this.budget = bytes;
  }

  /** Plays from the playhead, or stops. */
  toggle(direction: 1 | -1 = 1): void {
    const { player } = this;
    if (this.starting || (player.playing && player.direction === direction)) this.stop();
    else this.play(this.view.column, direction);
  }

  /** Plays from a column on; forwards at the ordered rate the sound leads. */
  play(column: number, direction: 1 | -1): void {
    const { player, sound, hold, course, rate } = this;
    sound.stop();
    if (this.isSilent(direction)) {
      player.start(column, direction);
      return;
    }
    const place = (hold * rate.denominator) / rate.numerator;
    const stretch = {
      from: course.first * place,
      seconds: course.count * place,
      offset: player.startOf(column, direction) * place,
      loops: player.loop === 'around',
    };
    const wanted = ++this.wishes;
    this.starting = true;
    void sound.start(stretch).then((clock) => {
      // Stopped, or begun anew, before the sound card was there.
      if (wanted !== this.wishes) return;
      this.starting = false;
      player.start(column, direction, clock);
    });
  }

  /** Whether what is set leaves the sound out: it has one direction and one speed. */
  isSilent(direction: 1 | -1 = this.player.direction): boolean {
    const { player, sound, course } = this;
    return (
      sound.state !== 'ready' || !course.isStretch || direction < 0 || player.speed !== NORMAL_SPEED || player.loop === 'back and forth' || this.trial !== null
    );
  }

  /** How much longer the sound is than the picture, in whole frames and in seconds; null without a sound or a rate. */
  readonly soundBeyond: { readonly frames: number; readonly seconds: number } | null = $derived.by(() => {
    const { sound } = this.shown.order().brief;
    if (!sound || !this.orderedRate) return null;
    const { numerator, denominator } = this.orderedRate;
    const picture = (this.view.model.frames.length * this.hold * denominator) / numerator;
    const seconds = sound.samples / sound.sampleRate - picture;
    return { frames: Math.round((seconds * numerator) / denominator), seconds };
  });

  /** Goes on from the playhead under what is set by now: after the rate, the loop or the stretch has changed. */
  restart(): void {
    if (this.player.playing) this.play(this.view.column, this.player.direction);
  }

  /** Shows the pixel under the pointer, or the middle, so large that values stand in the pixels. */
  zoomToPixels(): void {
    const { settings, pointed } = this;
    const held = this.cache.get(this.shownFor(this.view.column));
    if (pointed && held && 'picture' in held) {
      const [left, top, right, bottom] = held.picture.info.displayWindow;
      settings.centre = [(pointed[0] + 0.5) / (right - left + 1), (pointed[1] + 0.5) / (bottom - top + 1)];
    }
    settings.zoom = PIXELS;
  }

  stop(): void {
    this.wishes++;
    this.starting = false;
    this.player.stop();
    this.sound.stop();
    void this.watching.sights.send();
  }

  close(): void {
    this.stop();
    this.sound.close();
    this.cache.close();
    this.partnerCache.close();
  }
}
