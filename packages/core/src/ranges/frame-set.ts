import { MintError } from '../errors.ts';
import { writeRange } from './write-range.ts';

/** More frames than this in one set are refused: a shot of eleven hours at 24 is a slip of the key. */
export const MAXIMUM_FRAMES = 1_000_000;

/** Frame numbers beyond this have no use and would lose their place in 32 bits. */
export const MAXIMUM_FRAME_NUMBER = 999_999_999;

/** Raised when a frame set would hold more than {@link MAXIMUM_FRAMES} frames. */
export class TooManyFramesError extends MintError {
  constructor(count: number) {
    super('too-many-frames', `${count.toLocaleString('en')} frames are more than one shot can hold.`, {
      remedy: `Order at most ${MAXIMUM_FRAMES.toLocaleString('en')} frames.`,
    });
  }
}

/**
 * An immutable set of frame numbers, ascending and without repeats. Numbers may be negative.
 * Ranges are inclusive at both ends: 0 to 90 is 91 frames.
 */
export class FrameSet implements Iterable<number> {
  static readonly empty = new FrameSet(new Int32Array(0));

  /** The frames, ascending. Do not write to it. */
  readonly frames: Int32Array;

  private constructor(sortedUnique: Int32Array) {
    this.frames = sortedUnique;
  }

  /** Makes a set of any numbers, in any order, repeats allowed. */
  static of(numbers: Iterable<number>): FrameSet {
    const sorted = Int32Array.from(numbers).sort();
    let kept = 0;
    for (let i = 0; i < sorted.length; i++) {
      if (i === 0 || sorted[i] !== sorted[i - 1]) sorted[kept++] = sorted[i];
    }
    if (kept > MAXIMUM_FRAMES) throw new TooManyFramesError(kept);
    return kept === 0 ? FrameSet.empty : new FrameSet(sorted.slice(0, kept));
  }

  /** Makes the set first, first + step, … up to and including last. `step` must be 1 or more. */
  static range(first: number, last: number, step = 1): FrameSet {
    if (last < first) return FrameSet.empty;
    const count = Math.floor((last - first) / step) + 1;
    if (count > MAXIMUM_FRAMES) throw new TooManyFramesError(count);
    const frames = new Int32Array(count);
    for (let i = 0; i < count; i++) frames[i] = first + i * step;
    return new FrameSet(frames);
  }

  get size(): number {
    return this.frames.length;
  }

  get isEmpty(): boolean {
    return this.frames.length === 0;
  }

  /** The lowest frame; undefined for the empty set. */
  get first(): number | undefined {
    return this.frames[0];
  }

  /** The highest frame; undefined for the empty set. */
  get last(): number | undefined {
    return this.frames[this.frames.length - 1];
  }

  /** Position of a frame in ascending order, or -1 if it is not in the set. */
  indexOf(frame: number): number {
    // Most sets have no gap, and then a frame's place is known.
    const guess = frame - this.frames[0];
    if (this.frames[guess] === frame) return guess;
    let low = 0;
    let high = this.frames.length - 1;
    while (low <= high) {
      const middle = (low + high) >> 1;
      const value = this.frames[middle];
      if (value === frame) return middle;
      if (value < frame) low = middle + 1;
      else high = middle - 1;
    }
    return -1;
  }

  has(frame: number): boolean {
    return this.indexOf(frame) >= 0;
  }

  [Symbol.iterator](): Iterator<number> {
    return this.frames[Symbol.iterator]();
  }

  union(other: FrameSet): FrameSet {
    return this.merge(other, true, true, true);
  }

  intersection(other: FrameSet): FrameSet {
    return this.merge(other, false, true, false);
  }

  difference(other: FrameSet): FrameSet {
    return this.merge(other, true, false, false);
  }

  equals(other: FrameSet): boolean {
    return this.size === other.size && this.frames.every((frame, i) => frame === other.frames[i]);
  }

  isSubsetOf(other: FrameSet): boolean {
    return this.difference(other).isEmpty;
  }

  /** In a sentence a set stands in range notation; the empty one is the empty string. */
  toString(): string {
    return writeRange(this.frames);
  }

  /** So it does in JSON, from which `frameSetSchema` reads it back. */
  toJSON(): string {
    return this.toString();
  }

  /** One walk over both sorted lists; the three flags say which kinds of frame are kept. */
  private merge(other: FrameSet, onlyHere: boolean, inBoth: boolean, onlyThere: boolean): FrameSet {
    const a = this.frames;
    const b = other.frames;
    const kept = new Int32Array((onlyHere || inBoth ? a.length : 0) + (onlyThere ? b.length : 0));
    let count = 0;
    let i = 0;
    let j = 0;
    while (i < a.length || j < b.length) {
      if (j >= b.length || (i < a.length && a[i] < b[j])) {
        if (onlyHere) kept[count++] = a[i];
        i++;
      } else if (i >= a.length || b[j] < a[i]) {
        if (onlyThere) kept[count++] = b[j];
        j++;
      } else {
        if (inBoth) kept[count++] = a[i];
        i++;
        j++;
      }
    }
    if (count > MAXIMUM_FRAMES) throw new TooManyFramesError(count);
    return count === 0 ? FrameSet.empty : new FrameSet(kept.slice(0, count));
  }
}
