import { directionAfter, placeAfter, placesAfter, type Course as Turn, type FrameRate, type LoopMode } from '@mint-tally/core';
import { Course } from './course';

/** Slower and faster than the rate, as factors that keep it a fraction. */
export const SPEEDS: readonly (readonly [number, number])[] = [
  [1, 8],
  [1, 4],
  [1, 2],
  [1, 1],
  [2, 1],
  [4, 1],
];
export const NORMAL_SPEED = 3;

/** What the player is told of what it plays. */
export interface Played {
  readonly course: Course;
  readonly rate: FrameRate;
  /** Frames of the rate that a column lasts: more than one where not every frame is ordered. */
  readonly hold: number;
}

/** What the counters say since play began. */
export interface PlayCount {
  readonly shown: number;
  readonly dropped: number;
  /** Frames a second over the last two seconds; null before there are any. */
  readonly measured: number | null;
  readonly seconds: number;
}

const MEASURED_OVER = 2;
const NOTHING: PlayCount = { shown: 0, dropped: 0, measured: null, seconds: 0 };

/**
 * Plays by the clock: which column is shown follows from the time since play began, worked out anew for every refresh
 * of the screen, so that no delay adds up. A frame whose time has passed without its picture on the screen is dropped.
 */
export class Player {
  playing: boolean = $state(false);
  direction: 1 | -1 = $state(1);
  loop: LoopMode = $state('around');
  speed: number = $state(NORMAL_SPEED);
  /** Only every so many frames are shown, each for as long as all of them last. */
  every: number = $state(1);
  count: PlayCount = $state.raw(NOTHING);

  private readonly played: () => Played;
  private readonly usualNow: () => number;
  /** Seconds of the clock that leads. */
  private now: () => number;
  private began = 0;
  private turn: Turn = { count: 0, start: 0, direction: 1, loop: 'around' };
  private course = Course.of([]);
  private passed = 0;
  private currentShown = false;
  private shown = 0;
  private dropped = 0;
  private times: number[] = [];

  /** @param now seconds of the clock that leads where no other is given */
  constructor(played: () => Played, now: () => number = () => performance.now() / 1000) {
    this.played = played;
    this.usualNow = now;
    this.now = now;
  }

  /** The place of the course at which it begins from a column: one outside begins at an end. */
  startOf(column: number, direction: 1 | -1): number {
    const { course } = this.played();
    const place = course.placeOf(column);
    const atEnd = this.loop === 'once' && column === (direction > 0 ? course.last : course.first);
    return place < 0 || atEnd ? (direction > 0 ? 0 : course.count - 1) : place;
  }

  /** Begins at a column. @param clock another one that leads, and when on it the first frame is due */
  start(column: number, direction: 1 | -1 = 1, clock: { readonly now: () => number; readonly began: number } | null = null): void {
    const { course } = this.played();
    if (course.count === 0) return;
    const start = this.startOf(column, direction);
    this.now = clock?.now ?? this.usualNow;
    this.course = course;
    this.turn = { count: course.count, start, direction, loop: this.loop };
    this.direction = direction;
    this.began = clock?.began ?? this.now();
    this.passed = 0;
    this.currentShown = false;
    this.shown = 0;
    this.dropped = 0;
    this.times = [];
    this.count = NOTHING;
    this.playing = true;
  }

  stop(): void {
    this.playing = false;
  }

  /**
   * The column that is due now. Call it once a refresh of the screen, and `saw` when its picture stands there.
   *
   * @returns null when nothing is played, or the end was reached
   */
  due(): number | null {
    if (!this.playing) return null;
    const { rate, hold } = this.played();
    const [up, down] = SPEEDS[this.speed]!;
    const passed = placesAfter(this.now() - this.began, { numerator: rate.numerator * up, denominator: rate.denominator * down }, hold);
    if (passed > this.passed) {
      this.dropped += passed - this.passed - (this.currentShown ? 1 : 0);
      this.passed = passed;
      this.currentShown = false;
      this.tell();
    }
    const { place, ended } = placeAfter(passed, this.turn);
    this.direction = directionAfter(passed, this.turn);
    if (ended) {
      this.playing = false;
      return this.course.at(place);
    }
    return this.course.at(this.every > 1 ? place - (place % this.every) : place);
  }

  /** The picture that is due stands on the screen. @returns whether it has just come there */
  saw(): boolean {
    if (!this.playing || this.currentShown) return false;
    this.currentShown = true;
    this.shown++;
    const now = this.now();
    this.times.push(now);
    while (this.times.length > 0 && now - this.times[0]! > MEASURED_OVER) this.times.shift();
    this.tell();
    return true;
  }

  private tell(): void {
    const { times } = this;
    const span = times.length > 1 ? times.at(-1)! - times[0]! : 0;
    this.count = { shown: this.shown, dropped: this.dropped, measured: span > 0 ? (times.length - 1) / span : null, seconds: this.now() - this.began };
  }
}
