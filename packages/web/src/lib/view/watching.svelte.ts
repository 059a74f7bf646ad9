import { firstPartOutside, FrameSet, leftToWatch, wayOfSeeing, type NotWatched, type PassEyes, type SentPicture } from '@mint-tally/core';
import type { ShotView } from '$lib/shot/shot-view.svelte';
import { panOf, zoomOf } from './drawing';
import { NORMAL_SPEED } from './player.svelte';
import { SightKeeper } from './sight-keeper.svelte';
import type { ShownShot, Viewing } from './viewing.svelte';

/** Columns before what is to be watched that are played with it: motion is judged against what comes before. */
const LEAD_IN = 8;

/** What of the display window the fetched part covers, as shares; a data window that is smaller is all that there is. */
function fetchedShares({ left, top, width, height, reduce, full, dataWindow, displayWindow }: SentPicture['info']): [number, number, number, number] {
  if (left === 0 && top === 0 && width * reduce >= full[0] && height * reduce >= full[1]) return [-Infinity, -Infinity, Infinity, Infinity];
  const [x, y] = [left + dataWindow[0] - displayWindow[0], top + dataWindow[1] - displayWindow[1]];
  const [wide, high] = [displayWindow[2] - displayWindow[0] + 1, displayWindow[3] - displayWindow[1] + 1];
  return [x / wide, y / high, (x + width * reduce) / wide, (y + height * reduce) / high];
}

/** What somebody has watched, what is left, and what plays it. */
export class Watching {
  readonly sights: SightKeeper;
  private readonly viewing: Viewing;
  private readonly view: ShotView;
  private readonly shown: ShownShot;

  constructor(viewing: Viewing, view: ShotView, shown: ShownShot) {
    this.viewing = viewing;
    this.view = view;
    this.shown = shown;
    this.sights = new SightKeeper(shown.person, (shotId, eyes) => this.learn(shotId, eyes));
  }

  /** What the server said last of what has been seen, while the page does not know it yet. */
  private told: { readonly before: readonly PassEyes[]; readonly eyes: readonly PassEyes[] } | null = $state.raw(null);

  /** What has been seen of each pass. */
  readonly eyes: readonly PassEyes[] = $derived.by(() => (this.told?.before === this.shown.eyes() ? this.told.eyes : this.shown.eyes()));

  private learn(shotId: number, eyes: readonly PassEyes[]): void {
    if (shotId !== this.shown.id()) return;
    this.told = { before: this.shown.eyes(), eyes };
    // Steps and gates are read anew when nothing plays that would stutter.
    if (!this.viewing.player.playing) this.shown.renew();
  }

  /** As what a picture is recorded that stands on the screen as it is set now, and what keeps it from being watched. */
  private seeing(picture: SentPicture, playing: boolean): ReturnType<typeof wayOfSeeing> {
    const { settings, player, screen } = this.viewing;
    const zoom = zoomOf(picture, settings, screen);
    const pan = panOf(picture, settings, screen, zoom);
    const [left, top, right, bottom] = picture.info.displayWindow;
    const size = [(right - left + 1) * zoom[0], (bottom - top + 1) * zoom[1]] as const;
    const there = fetchedShares(picture.info);
    return wayOfSeeing({
      playing,
      atOrderedRate: this.viewing.trial === null && player.speed === NORMAL_SPEED && player.every === 1,
      isItself: settings.showsAll && this.viewing.pictures.partner === null,
      zoom: zoom[1] / picture.info.reduce,
      visible: [
        Math.max(there[0], -pan[0] / size[0]),
        Math.max(there[1], -pan[1] / size[1]),
        Math.min(there[2], (screen.width - pan[0]) / size[0]),
        Math.min(there[3], (screen.height - pan[1]) / size[1]),
      ],
    });
  }

  /** What keeps frames from being recorded as watched while they are played as it is set now; null when nothing does. */
  readonly notWatched: NotWatched | null = $derived.by(() => {
    void this.viewing.pictures.cache.version;
    const held = this.viewing.pictures.cache.get(this.view.column);
    if (!held || !('picture' in held)) return null;
    return this.seeing(held.picture, true).why;
  });

  /** Notes that the picture of a column stands on the screen. */
  note(column: number): void {
    const entry = this.viewing.pictures.entryOf(column);
    const held = this.viewing.pictures.cache.get(column);
    if (entry === null || !held || !('picture' in held)) return;
    const [frame, content] = [this.viewing.pictures.list.frames[entry]!, this.viewing.pictures.list.contents[entry]!];
    const { seen } = this.seeing(held.picture, this.viewing.player.playing);
    // A picture that came under another name, or whose content nobody knows, is nobody's proof.
    if (content === '' || seen === null || seen.parts === 0) return;
    this.sights.note(this.shown.id(), this.view.pass, { frame, content, ...seen });
  }

  /** Plays what is left to be watched of this pass, else of another one that the brief wants watched. */
  goOn(): void {
    const isLeft = (one: PassEyes) => !leftToWatch(one).isEmpty;
    const { eyes } = this;
    const next = eyes.find((one) => one.pass === this.view.pass && isLeft(one)) ?? eyes.find((one) => one.wanted && isLeft(one));
    if (next) this.playLeft(next);
  }

  /** Selects what is left to be watched of a pass, with some frames before each stretch of it, and plays that at 100 %. */
  playLeft(eyes: PassEyes): void {
    const { view } = this;
    const { settings, player } = this.viewing;
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
    this.viewing.trial = null;
    player.speed = NORMAL_SPEED;
    player.every = 1;
    this.viewing.play(view.column, 1);
  }

  /** Where the viewer looks at 100 % so that a part, given by its upper left corner, and as much as fits after it can be seen. */
  private centreOf([left, top]: readonly [number, number]): readonly [number, number] {
    const { resolution, pixelAspect = 1 } = this.shown.order().brief;
    const held = this.viewing.pictures.cache.get(this.view.column);
    const window = held && 'picture' in held ? held.picture.info.displayWindow : null;
    const size = window ? [window[2] - window[0] + 1, window[3] - window[1] + 1] : (resolution ?? [1, 1]);
    const middle = (from: number, screen: number, whole: number) => {
      const half = screen / whole / 2;
      return half >= 0.5 ? 0.5 : Math.min(1 - half, Math.max(half, from + half));
    };
    return [middle(left, this.viewing.screen.width, size[0]! * pixelAspect), middle(top, this.viewing.screen.height, size[1]!)];
  }
}
