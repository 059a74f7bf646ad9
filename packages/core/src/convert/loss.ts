import type { DecodedFrame } from '../formats/index.ts';
import type { ConvertedFrame } from './convert-frame.ts';
import { numbersOf } from './numbers.ts';

/** What of some frames did not come through, in the new file's own numbers: codes of 0..1, or light. */
export interface Loss {
  readonly frames: number;
  /** The largest error of a sample, and the root mean square of all. */
  readonly most: number;
  readonly rootMeanSquare: number;
  /** Of the errors over their values plus a hundredth: what eyes see of it. */
  readonly relative: number;
  /** Share of samples that were above 1 or below 0, and are cut. */
  readonly clipped: number;
  /** Share of samples that were no number. */
  readonly notNumbers: number;
  /** Channels that the new files have no place for. */
  readonly left: readonly string[];
  /** What of the files' shape the new ones do not have, in words. */
  readonly shape: readonly string[];
  /** Pixels of all the frames outside of the display window, and with light but no alpha. */
  readonly cut: number;
  readonly glowing: number;
}

/** Adds up what is lost, frame by frame. */
export class LossSum {
  private frames = 0;
  private samples = 0;
  private squares = 0;
  private relativeSquares = 0;
  private most = 0;
  private clipped = 0;
  private notNumbers = 0;
  private cut = 0;
  private glowing = 0;
  private readonly left = new Set<string>();
  private readonly shape = new Set<string>();

  /** @param read the new file as it is read back */
  add({ wanted: wish, left, shape, cut, glowing }: ConvertedFrame, read: DecodedFrame): void {
    const wanted = wish();
    this.frames++;
    this.cut += cut;
    this.glowing += glowing;
    for (const name of left) this.left.add(name);
    for (const word of shape) this.shape.add(word);
    // Formats without names give channels back in the order in which they were written.
    const planes = wanted.map(({ name }, i) => read.planes.find(({ channel }) => channel === name) ?? read.planes[i]!);
    wanted.forEach(({ values, kind }, c) => {
      const got = numbersOf(planes[c]!);
      this.samples += values.length;
      for (let i = 0; i < values.length; i++) {
        const value = values[i]!;
        const back = got[i]!;
        if (Number.isNaN(value)) {
          if (!Number.isNaN(back)) this.notNumbers++;
          continue;
        }
        if (kind === 'code' && (value < 0 || value > 1)) {
          this.clipped++;
          continue;
        }
        if (value === back) continue;
        const error = Math.abs(value - back);
        if (!Number.isFinite(error)) {
          this.clipped++;
          continue;
        }
        this.most = Math.max(this.most, error);
        this.squares += error * error;
        this.relativeSquares += (error / (Math.abs(value) + 0.01)) ** 2;
      }
    });
  }

  sum(): Loss {
    const share = (count: number) => count / Math.max(1, this.samples);
    return {
      frames: this.frames,
      most: this.most,
      rootMeanSquare: Math.sqrt(share(this.squares)),
      relative: Math.sqrt(share(this.relativeSquares)),
      clipped: share(this.clipped),
      notNumbers: share(this.notNumbers),
      left: [...this.left],
      shape: [...this.shape],
      cut: this.cut,
      glowing: this.glowing,
    };
  }
}

const percent = (share: number) => `${(100 * share).toPrecision(2)} %`;

/** A loss in words, the worst first; what is exact is said to be. */
export function sayLoss(what: string, { frames, most, relative, clipped, notNumbers, left, shape, cut, glowing }: Loss): string[] {
  const looked = `on ${frames} ${frames === 1 ? 'frame' : 'frames'} looked at`;
  const words: string[] = [];
  if (left.length > 0)
    words.push(`${what}: ${left.join(', ')} ${left.length === 1 ? 'is' : 'are'} left out: the format has no place for ${left.length === 1 ? 'it' : 'them'}.`);
  for (const word of shape) words.push(`${what}: ${word}.`);
  if (clipped > 0) words.push(`${what}: ${percent(clipped)} of the values are cut at 0 or 1, ${looked}.`);
  if (notNumbers > 0) words.push(`${what}: ${percent(notNumbers)} of the values are no numbers, and become 0.`);
  if (cut > 0) words.push(`${what}: ${cut} pixels outside of the display window are cut off, ${looked}.`);
  if (glowing > 0) words.push(`${what}: ${glowing} pixels have light and no alpha, which straight alpha cannot say; their colours are kept as they are.`);
  words.push(
    most === 0
      ? `${what}: exact to the bit, ${looked}.`
      : `${what}: values change by ${most.toPrecision(2)} at most, by ${percent(relative)} on the whole, ${looked}.`,
  );
  return words;
}
