import {
  firstPartOutside,
  FrameSet,
  leftToWatch,
  parseFrameRate,
  wayOfSeeing,
  type FrameRate,
  type NotWatched,
  type Order,
  type PassEyes,
  type SentPicture,
} from '@mint-tally/core';
import type { ShotView } from '$lib/shot/shot-view.svelte';
import { Course } from './course';
import type { ReadAs } from './drawn';
import { PictureCache, type Held } from './picture-cache.svelte';
import { NO_PICTURES, pictureAddress, pictureListSchema, type PictureChoice, type PictureList } from './picture-list';
import { NORMAL_SPEED, Player, type Played } from './player.svelte';
import { panOf, zoomOf, type Screen } from './drawing';
import { SightKeeper } from './sight-keeper.svelte';
import { SoundTrack } from './sound.svelte';
import { PIXELS, ViewSettings } from './view-settings.svelte';

/** What a shot is played at where its brief says nothing. */
const USUAL_RATE: FrameRate = { numerator: 24, denominator: 1 };
const BUDGET_KEY = 'mint-tally-view-memory';
const USUAL_BUDGET = 2 ** 30;
export const BUDGETS: readonly number[] = [2 ** 28, 2 ** 29, 2 ** 30, 2 ** 31, 2 ** 32, 2 ** 33];

/** Columns before what is to be watched that are played with it: motion is judged against what comes before. */
const LEAD_IN = 8;

/** Frames of the rate that each column lasts: of a range with a step, the step. */
export function holdOf(frames: ArrayLike<number>): number {
  let least = Infinity;
  for (let i = 1; i < frames.length; i++) least = Math.min(least, frames[i]! - frames[i - 1]!);
  return Number.isFinite(least) ? least : 1;
}

/** What a picture is compared with. */
export type Partner = { readonly kind: 'frame'; readonly offset: number } | { readonly kind: 'pass'; readonly pass: string };

/** How the alpha of a pass is read, and who says so. */
export interface AlphaRead {
  readonly straight: boolean;
  readonly said: string;
}

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
  list: PictureList = $state.raw(NO_PICTURES);
  partnerList: PictureList = $state.raw(NO_PICTURES);
  /** Why the list of files could not be had; empty when it could. */
  problem: string = $state('');
  /** A rate on trial instead of the ordered one. */
  trial: FrameRate | null = $state.raw(null);
  /** A missing frame shows its neighbour before it, said as such, instead of its gap. */
  holdsMissing: boolean = $state(false);
  /** Device pixels of the viewer. */
  screen: Screen = $state.raw({ width: 0, height: 0 });
  readonly sights: SightKeeper;
  /** The pixel under the pointer, in the display window; null outside. */
  pointed: readonly [number, number] | null = $state.raw(null);
  /** A pixel whose values are told wherever the pointer is; null for none. */
  pinned: readonly [number, number] | null = $state.raw(null);
  /** Left, top, width and height of a marked region, in the display window; null for none. */
  region: readonly [number, number, number, number] | null = $state.raw(null);
  /** A drag in the picture marks a region. */
  marking: boolean = $state(false);
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
    this.sights = new SightKeeper(shown.person, (shotId, eyes) => this.learn(shotId, eyes));
    const budget = Number(stored?.getItem(BUDGET_KEY));
    if (BUDGETS.includes(budget)) this.budget = budget;
    this.cache = new PictureCache(this.budget);
    this.player = new Player(() => this.played);
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
    const isThere = kind === 'pass' && value !== this.view.pass && this.shown.order().passes.some(({ pass }) => pass.name === value);
    return isThere ? { kind, pass: value } : null;
  });

  /** What is known of the picture that a column is compared with; null while it is not known, or nothing is compared. */
  partnerHeld(column: number): Held | null {
    const { partner } = this;
    if (!partner) return null;
    if (partner.kind === 'pass') {
      const frame = this.view.model.frames[column];
      if (!this.partnerList.frames.includes(frame!)) return { why: `${partner.pass} has no file for frame ${frame}.` };
      return this.partnerCache.get(column);
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
  async loadList(pass: string, signal: AbortSignal, which: 'list' | 'partnerList' = 'list'): Promise<void> {
    try {
      const response = await fetch(`/shots/${this.shown.id()}/pictures?${new URLSearchParams({ pass }).toString()}`, { signal });
      if (!response.ok) throw new Error('The server does not say which files there are.');
      this[which] = pictureListSchema.parse(await response.json());
      this.problem = '';
    } catch (thrown) {
      if (signal.aborted) return;
      this.problem = thrown instanceof Error ? thrown.message : String(thrown);
    }
  }

  /** What the server said last of what has been seen, while the page does not know it yet. */
  private told: { readonly before: readonly PassEyes[]; readonly eyes: readonly PassEyes[] } | null = $state.raw(null);

  /** What has been seen of each pass. */
  readonly eyes: readonly PassEyes[] = $derived.by(() => (this.told?.before === this.shown.eyes() ? this.told.eyes : this.shown.eyes()));

  private learn(shotId: number, eyes: readonly PassEyes[]): void {
    if (shotId !== this.shown.id()) return;
    this.told = { before: this.shown.eyes(), eyes };
    // Steps and gates are read anew when nothing plays that would stutter.
    if (!this.player.playing) this.shown.renew();
  }

  /** As what a picture is recorded that stands on the screen as it is set now, and what keeps it from being watched. */
  private seeing(picture: SentPicture, playing: boolean): ReturnType<typeof wayOfSeeing> {
    const { settings, player, screen } = this;
    const zoom = zoomOf(picture, settings, screen);
    const pan = panOf(picture, settings, screen, zoom);
    const [left, top, right, bottom] = picture.info.displayWindow;
    const size = [(right - left + 1) * zoom[0], (bottom - top + 1) * zoom[1]] as const;
    return wayOfSeeing({
      playing,
      atOrderedRate: this.trial === null && player.speed === NORMAL_SPEED && player.every === 1,
      isItself: settings.showsAll && this.partner === null,
      zoom: zoom[1] / picture.info.reduce,
      visible: [-pan[0] / size[0], -pan[1] / size[1], (screen.width - pan[0]) / size[0], (screen.height - pan[1]) / size[1]],
    });
  }

  /** What keeps frames from being recorded as watched while they are played as it is set now; null when nothing does. */
  readonly notWatched: NotWatched | null = $derived.by(() => {
    void this.cache.version;
    const held = this.cache.get(this.view.column);
    if (!held || !('picture' in held)) return null;
    return this.seeing(held.picture, true).why;
  });

  /** Notes that the picture of a column stands on the screen. */
  noteSeen(column: number): void {
    const entry = this.entryOf(column);
    const held = this.cache.get(column);
    if (entry === null || !held || !('picture' in held)) return;
    const [frame, content] = [this.list.frames[entry]!, this.list.contents[entry]!];
    const { seen } = this.seeing(held.picture, this.player.playing);
    // A picture that came under another name, or whose content nobody knows, is nobody's proof.
    if (content === '' || seen === null || seen.parts === 0) return;
    this.sights.note(this.shown.id(), this.view.pass, { frame, content, ...seen });
  }

  /** Plays what is left to be watched of this pass, else of another one that the brief wants watched. */
  watchOn(): void {
    const isLeft = (one: PassEyes) => !leftToWatch(one).isEmpty;
    const { eyes } = this;
    const next = eyes.find((one) => one.pass === this.view.pass && isLeft(one)) ?? eyes.find((one) => one.wanted && isLeft(one));
    if (next) this.playLeft(next);
  }

  /** Selects what is left to be watched of a pass, with some frames before each stretch of it, and plays that at 100 %. */
  playLeft(eyes: PassEyes): void {
    const { view, settings, player } = this;
    view.choosePass(eyes.pass);
    const { frames } = view.model;
    const left = leftToWatch(eyes);
    const wanted = new Set<number>();
    frames.forEach((frame, column) => {
      if (left.has(frame)) for (let before = 0; before <= LEAD_IN; before++) if (column >= before) wanted.add(frames[column - before]!);
    });
    if (wanted.size === 0) return;
    view.selectFrames(FrameSet.of(wanted));
    view.goTo(Math.min(...wanted));
    settings.showAsItIs();
    settings.zoom = 1;
    settings.centre = this.centreOf(firstPartOutside(eyes.partsDone) ?? [0, 0]);
    this.trial = null;
    player.speed = NORMAL_SPEED;
    player.every = 1;
    this.play(view.column, 1);
  }

  /** Where the viewer looks at 100 % so that a part, given by its upper left corner, and as much as fits after it can be seen. */
  private centreOf([left, top]: readonly [number, number]): readonly [number, number] {
    const { resolution, pixelAspect = 1 } = this.shown.order().brief;
    const held = this.cache.get(this.view.column);
    const window = held && 'picture' in held ? held.picture.info.displayWindow : null;
    const size = window ? [window[2] - window[0] + 1, window[3] - window[1] + 1] : (resolution ?? [1, 1]);
    const middle = (from: number, screen: number, whole: number) => {
      const half = screen / whole / 2;
      return half >= 0.5 ? 0.5 : Math.min(1 - half, Math.max(half, from + half));
    };
    return [middle(left, this.screen.width, size[0]! * pixelAspect), middle(top, this.screen.height, size[1]!)];
  }

  /** Tells the caches where pictures come from, and shares the memory among them. */
  connect(pass: string): void {
    const { only, reduce } = this.settings;
    const { partner, budget } = this;
    const isTwo = partner?.kind === 'pass';
    this.cache.setBudget(isTwo ? budget / 2 : budget);
    this.partnerCache.setBudget(isTwo ? budget / 2 : 0);
    this.feed(this.cache, pass, this.list, { only: only === null ? null : [only], reduce });
    if (isTwo) this.feed(this.partnerCache, partner.pass, this.partnerList, { only: null, reduce });
  }

  private feed(cache: PictureCache, pass: string, list: PictureList, choice: PictureChoice): void {
    const [shotId, { frames }] = [this.shown.id(), this.view.model];
    const entries = new Map(list.frames.map((frame, entry) => [frame, entry]));
    cache.source(JSON.stringify([shotId, pass, choice]), (column) => {
      const entry = entries.get(frames[column]!);
      return entry === undefined ? null : pictureAddress(shotId, pass, list, entry, choice);
    });
  }

  /** Tells the caches what is looked at, and what comes next. */
  look(column: number): void {
    const { partner, player, course } = this;
    const offset = partner?.kind === 'frame' ? partner.offset : 0;
    this.cache.look(column, player.direction, course.withNeighbours(offset, this.view.model.frames.length), player.playing);
    if (partner?.kind === 'pass') this.partnerCache.look(column, player.direction, course, player.playing);
  }

  /** How the alpha of a pass is read: as chosen, else by the file's own word, the brief's, what its format is made for. */
  alphaOf(pass: string, picture: SentPicture | null): AlphaRead {
    const { alpha } = this.settings;
    const ordered = this.shown.order().passes.find((one) => one.pass.name === pass)?.pass.alpha;
    const format = picture?.info.format ?? '';
    const usual = format === 'png' || format === 'tga' ? 'straight' : 'premultiplied';
    const own = picture?.info.alphaKind ?? null;
    const briefs = ordered === 'straight' || ordered === 'premultiplied' ? ordered : null;
    const kind = own ?? briefs ?? usual;
    const said = own ? `${own}, says the file` : briefs ? `${briefs}, says the brief` : `${usual}, as ${format || 'such'} files usually are`;
    return { straight: (alpha === 'as said' ? kind : alpha) === 'straight', said };
  }

  /** How the values of a pass are read: as chosen, else as its role and its channels suggest. */
  readAs(pass: string, picture: SentPicture): ReadAs {
    if (this.settings.readAs) return this.settings.readAs;
    const { type, channels } = picture.info;
    const role = this.shown.order().passes.find((candidate) => candidate.pass.name === pass)?.pass.role;
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
    this.budget = bytes;
  }

  /** Plays from the playhead, or stops. */
  toggle(direction: 1 | -1 = 1): void {
    const { player } = this;
    if (this.starting || (player.playing && player.direction === direction)) this.stop();
    else this.play(this.view.column, direction);
  }

  /** Plays from a column on; forwards at the ordered rate the sound leads. */
  private play(column: number, direction: 1 | -1): void {
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
    void this.sights.send();
  }

  close(): void {
    this.stop();
    this.sound.close();
    this.cache.close();
    this.partnerCache.close();
  }
}
