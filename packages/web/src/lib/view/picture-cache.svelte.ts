import { untrack } from 'svelte';
import { readPictureMessage, type SentPicture } from '@mint-tally/core';
import { Course } from './course';

/** What is to be had for a column: the address of its picture, or none. */
export type AddressOf = (column: number) => string | null;

/** What is known of a column's picture. */
export type Held = { readonly picture: SentPicture } | { readonly why: string };

/** Requests under way at a time: enough that the threads never wait, few enough that a jump is answered at once. */
const AT_ONCE = 4;
/** Steps that a playhead goes on by between two looks, at most; more is a jump. */
const MOST_STEPS = 8;
const modulo = (value: number, by: number) => ((value % by) + by) % by;
/** Before a server that went away is asked again, in milliseconds. */
const AGAIN = 2000;

/**
 * Pictures in memory, as many as the budget holds. It fetches ahead of the playhead in the direction of play, gives up
 * what is far from a playhead that jumped, and lets go what will be needed last.
 */
export class PictureCache {
  /** Bytes that may be held. */
  budget: number = $state(0);
  /** Bytes that are held. */
  held: number = $state(0);
  /** Counts up with every change of what is held. */
  version: number = $state(0);
  /** The server does not answer: what is in memory can still be seen. */
  isAway: boolean = $state(false);

  private readonly entries = new Map<number, Held>();
  private readonly sizes = new Map<number, number>();
  private readonly underWay = new Map<number, AbortController>();
  private addressOf: AddressOf = () => null;
  private known = '';
  private column = 0;
  private direction: 1 | -1 = 1;
  private course = Course.of([]);
  private again: ReturnType<typeof setTimeout> | null = null;
  /** The playhead did not come here by going on in its direction. */
  private isJump = true;
  private plays = false;
  /** Steps of play that pass before what is asked for is there; nearer columns would come too late. */
  private lead = 0;

  constructor(budget: number) {
    this.budget = budget;
  }

  /** The picture of a column, why there is none, or null while it is not known. */
  get(column: number): Held | null {
    return this.entries.get(column) ?? null;
  }

  has(column: number): boolean {
    const entry = this.entries.get(column);
    return entry !== undefined && 'picture' in entry;
  }

  /** Columns whose pictures are held. */
  get count(): number {
    return this.sizes.size;
  }

  /** Bytes of a picture, as those that are held come to; null before the first. */
  get bytesEach(): number | null {
    return this.sizes.size === 0 ? null : this.held / this.sizes.size;
  }

  /** Pictures that the budget can hold; null before the first is known. */
  get capacity(): number | null {
    const each = this.bytesEach;
    return each === null ? null : Math.max(1, Math.floor(this.budget / each));
  }

  /**
   * Says where pictures come from. What is held stays held where its address is the same.
   *
   * @param key changes when pictures are of another kind: another pass, other channels, another size
   */
  source(key: string, addressOf: AddressOf): void {
    // Whoever tells it something does not depend on what it holds.
    untrack(() => this.changeSource(key, addressOf));
  }

  private changeSource(key: string, addressOf: AddressOf): void {
    const old = this.addressOf;
    this.addressOf = addressOf;
    for (const column of [...this.entries.keys()]) if (key !== this.known || old(column) !== addressOf(column)) this.drop(column);
    for (const [column, stop] of this.underWay) if (key !== this.known || old(column) !== addressOf(column)) stop.abort();
    this.known = key;
    this.version++;
    this.fill();
  }

  /**
   * Says what is looked at and what comes next: a course of columns that is gone through from `column` in `direction`.
   *
   * @param plays whether the playhead goes on by itself: what would come too late is then asked for last
   */
  look(column: number, direction: 1 | -1, course: Course, plays = false): void {
    const steps = course.count === 0 ? 0 : (course.placeOf(column) - course.placeOf(this.column)) * direction;
    const goesOn = course.count > 0 && course.placeOf(this.column) >= 0 && modulo(steps, course.count) <= MOST_STEPS;
    this.isJump = !goesOn;
    if (!goesOn || !plays) this.lead = 0;
    this.plays = plays;
    this.column = column;
    this.direction = direction;
    this.course = course;
    untrack(() => this.fill());
  }

  setBudget(bytes: number): void {
    untrack(() => {
      if (bytes === this.budget) return;
      this.budget = bytes;
      this.shrink(0, -1);
      this.fill();
    });
  }

  close(): void {
    if (this.again) clearTimeout(this.again);
    for (const stop of this.underWay.values()) stop.abort();
    this.entries.clear();
    this.sizes.clear();
    this.held = 0;
  }

  /** How many steps of play lie between the playhead and a column. */
  private ahead(column: number): number {
    const { course } = this;
    const place = course.placeOf(column);
    if (place < 0) return Infinity;
    const steps = (place - this.place) * this.direction;
    return steps >= 0 ? steps : steps + course.count;
  }

  /** Asks for what is needed next, as far as the budget goes. */
  private fill(): void {
    const { course, place } = this;
    const room = this.capacity ?? AT_ONCE;
    const { count } = course;
    // What is looked at comes first, also where it is no part of what is played.
    if (course.placeOf(this.column) < 0) this.ask(this.column);
    const wanted = Math.min(count, room);
    // A playhead that jumped does not wait for what lies elsewhere. What it has just gone past is let come: it would
    // else be asked for and given up for ever where pictures take longer than their turn.
    if (this.isJump) for (const [column, stop] of this.underWay) if (column !== this.column && this.ahead(column) >= wanted) stop.abort();
    const lead = Math.min(this.lead, wanted - 1);
    for (let turn = 0; turn < wanted && this.underWay.size < AT_ONCE && !this.isAway; turn++) {
      const step = (turn + lead) % wanted;
      this.ask(course.at(modulo(place + step * this.direction, count)));
    }
  }

  /** Learns from a picture that came whether it came in time. */
  private learnLead(column: number): void {
    if (!this.plays) return;
    const { count } = this.course;
    const steps = this.ahead(column);
    if (steps > count / 2) this.lead = Math.min(this.lead + 2, Math.max(0, Math.min(count, this.capacity ?? count) - 1));
    else if (steps > this.lead + 2 && this.lead > 0) this.lead--;
  }

  /** Asks for a column, unless it is known or asked for. */
  private ask(column: number): void {
    if (this.entries.has(column) || this.underWay.has(column)) return;
    const address = this.addressOf(column);
    if (address !== null) void this.fetch(column, address);
  }

  /** Where in the course the playhead stands; outside of it, at the beginning. */
  private get place(): number {
    return Math.max(0, this.course.placeOf(this.column));
  }

  private async fetch(column: number, address: string): Promise<void> {
    const stop = new AbortController();
    this.underWay.set(column, stop);
    try {
      const response = await fetch(address, { signal: stop.signal });
      if (!response.ok) {
        const said = (await response.json().catch(() => null)) as { message?: unknown } | null;
        this.keep(column, { why: typeof said?.message === 'string' ? said.message : 'The server refused this picture.' }, 0);
      } else {
        const buffer = await response.arrayBuffer();
        this.learnLead(column);
        if (!stop.signal.aborted) this.keep(column, { picture: readPictureMessage(buffer) }, buffer.byteLength);
      }
      this.isAway = false;
    } catch (thrown) {
      if (stop.signal.aborted) return;
      if (thrown instanceof TypeError) this.waitForServer();
      else this.keep(column, { why: thrown instanceof Error ? thrown.message : String(thrown) }, 0);
    } finally {
      if (this.underWay.get(column) === stop) this.underWay.delete(column);
      this.fill();
    }
  }

  private waitForServer(): void {
    this.isAway = true;
    this.again ??= setTimeout(() => {
      this.again = null;
      this.isAway = false;
      this.fill();
    }, AGAIN);
  }

  private keep(column: number, held: Held, bytes: number): void {
    this.shrink(bytes, column);
    this.entries.set(column, held);
    if (bytes > 0) {
      this.sizes.set(column, bytes);
      this.held += bytes;
    }
    this.version++;
  }

  /** Lets go what will be needed last until so much more fits. */
  private shrink(more: number, but: number): void {
    while (this.held + more > this.budget && this.sizes.size > 0) {
      let [last, farthest] = [-1, -1];
      for (const column of this.sizes.keys()) {
        if (column === but || column === this.column) continue;
        const steps = this.ahead(column);
        if (steps > farthest) [last, farthest] = [column, steps];
      }
      if (last < 0) return;
      this.drop(last);
    }
  }

  private drop(column: number): void {
    this.held -= this.sizes.get(column) ?? 0;
    this.sizes.delete(column);
    this.entries.delete(column);
    this.version++;
  }
}
