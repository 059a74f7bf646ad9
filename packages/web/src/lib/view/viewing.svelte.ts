import type { AskedTiles } from '$lib/assay/ask-tiles';
import { parseFrameRange, parseFrameRate, type FrameRate, type Order, type PassEyes, type SentPicture } from '@mint-tally/core';
import type { ShotView } from '$lib/shot/shot-view.svelte';
import { Course } from './course';
import type { ReadAs } from './drawn';
import type { Opening } from './other-folder';
import { NORMAL_SPEED, Player, type Played } from './player.svelte';
import { panOf, zoomOf, type Screen } from './drawing';
import { alphaOf, readAs, type AlphaRead } from './reading';
import { ShownPictures } from './shown-pictures.svelte';
import { SoundTrack } from './sound.svelte';
import { Watching } from './watching.svelte';
import { PIXELS, ViewSettings } from './view-settings.svelte';

/** What a shot is played at where its brief says nothing. */
const USUAL_RATE: FrameRate = { numerator: 24, denominator: 1 };
/** Frames of the rate that each column lasts: of a range with a step, the step. */
export function holdOf(frames: ArrayLike<number>): number {
  let least = Infinity;
  for (let i = 1; i < frames.length; i++) least = Math.min(least, frames[i]! - frames[i - 1]!);
  return Number.isFinite(least) ? least : 1;
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
  readonly pictures: ShownPictures;
  readonly player: Player;
  readonly sound = new SoundTrack();
  /** A rate on trial instead of the ordered one. */
  trial: FrameRate | null = $state.raw(null);
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
    this.pictures = new ShownPictures(view, shown, this.settings, stored);
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

  /** Shows what somebody came here to see, at the size that it is. */
  open({ pass, against, other, compareAs, range }: Opening): void {
    const { view, settings } = this;
    view.choosePass(pass);
    if (range !== '') {
      const frames = parseFrameRange(range);
      view.selectFrames(frames);
      if (!frames.isEmpty) view.goTo(frames.first!);
    }
    settings.other = other;
    settings.align = 'number';
    settings.against = against;
    settings.compareAs = compareAs;
    settings.zoom = 1;
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

  /** Tells the caches what is looked at, and what comes next. */
  look(column: number): void {
    const { player, course } = this;
    this.pictures.look(column, course.every(player.every), player.direction, player.playing);
  }

  /** How the alpha of a pass is read. */
  alphaOf(pass: string, picture: SentPicture | null): AlphaRead {
    return alphaOf(this.shown.order(), this.settings, pass, picture);
  }

  /** How the values of a pass are read. */
  readAs(pass: string, picture: SentPicture): ReadAs {
    return readAs(this.shown.order(), this.settings, pass, picture);
  }

  /** Fetches only what is visible of each frame at 100 % now, or all of it again. */
  toggleFetched(): void {
    const { settings, screen } = this;
    if (settings.fetched) {
      settings.fetched = null;
      return;
    }
    const held = this.pictures.cache.get(this.view.column);
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
    const held = this.pictures.cache.get(this.pictures.shownFor(this.view.column));
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
    this.pictures.close();
  }
}
