import { formatTimecode, nominalRate, parseFrameRate, type FrameRate } from '../../timing/index.ts';
import { framesOfDuration, screenRun, secondsOfFrames } from '../duration.ts';
import type { Order } from '../order.ts';
import { counted } from '../../wording.ts';
import { advice, type Advice, type AdviceRule } from './advice.ts';

/** The cut: what the ordered frames cover on screen, without the handles. */
function cutOf({ brief }: Order): Cut | null {
  const run = screenRun(brief.range);
  if (!run) return null;
  const [head, tail] = brief.handles ?? [0, 0];
  return { frames: run.span - head - tail, first: run.start + head, last: run.start + run.span - 1 - tail, step: run.step };
}

/** Ranges are inclusive at both ends, which is where one frame is lost or won. */
export const lengthRule: AdviceRule = (order) => {
  const cut = cutOf(order);
  const { fps, duration } = order.brief;
  if (!cut || fps === undefined) return [];
  const rate = parseFrameRate(fps);
  const loop = order.brief.loop === true;
  const found = duration === undefined ? againstWholeSeconds(cut, rate, loop) : againstDuration(cut, duration, rate, loop);
  return [...found, ...againstSound(order, cut.frames, rate), ...againstHabit(order, cut, rate)];
};

interface Cut {
  readonly frames: number;
  readonly first: number;
  readonly last: number;
  readonly step: number;
}

function inclusive({ first, last, frames }: Cut): string {
  return `${last} - ${first} + 1 = ${frames}`;
}

function againstDuration(cut: Cut, duration: string, rate: FrameRate, loop: boolean): Advice[] {
  const wanted = framesOfDuration(duration, rate);
  const difference = cut.frames - wanted.frames;
  const sum = `${inclusive(cut)}; ${duration} ${wanted.exact ? '=' : '≈'} ${counted(wanted.frames, 'frame')}`;
  if (difference === 0) {
    if (wanted.exact) return [];
    return [
      advice(
        'duration-mismatch',
        'duration',
        `${duration} is no whole number of frames at this rate.`,
        `${wanted.frames} frames last ${secondsOfFrames(wanted.frames, rate)} s`,
      ),
    ];
  }
  // A turn of 96 frames shows its first picture again in the last of them, which a loop leaves out.
  if (difference === -1 && loop) return [];
  if (difference === -1) return [advice('range-short', 'range', 'The range is one frame short of its duration.', sum)];
  if (difference === 1) return [longByOne(loop, sum, 'The range is one frame longer than its duration.')];
  return [
    advice(
      'duration-mismatch',
      'range',
      `The range is ${counted(Math.abs(difference), 'frame')} ${difference < 0 ? 'shorter' : 'longer'} than its duration.`,
      sum,
    ),
  ];
}

function longByOne(loop: boolean, sum: string, otherwise: string): Advice {
  if (!loop) return advice('range-long', 'range', otherwise, sum);
  return advice('loop-repeat', 'range', 'The frame after a whole turn shows what the first one shows: leave the last frame out.', sum);
}

/** Without a stated duration, one frame beside whole seconds is the usual slip of counting. */
function againstWholeSeconds(cut: Cut, rate: FrameRate, loop: boolean): Advice[] {
  const second = nominalRate(rate);
  // A stepped range is a test: where it ends is chosen by its step.
  if (cut.frames < second - 1 || second < 2 || cut.step > 1) return [];
  const seconds = Math.round(cut.frames / second);
  const difference = cut.frames - seconds * second;
  if (difference === 1)
    return [
      longByOne(
        loop,
        `${inclusive(cut)} = ${seconds} x ${second} + 1`,
        `The range is one frame longer than ${counted(seconds, 'second')}: both its ends count.`,
      ),
    ];
  if (difference === -1 && !loop)
    return [advice('range-short', 'range', `The range is one frame short of ${counted(seconds, 'second')}.`, `${inclusive(cut)} = ${seconds} x ${second} - 1`)];
  return [];
}

/** What a program puts into a new scene, and nobody has thought of. */
const NOBODY_CHOSE = /^[01]-250$/;

function againstHabit({ brief: { range, duration, sound } }: Order, cut: Cut, rate: FrameRate): Advice[] {
  if (!NOBODY_CHOSE.test(range.trim())) return [];
  // A cut or a sound of that length says that it is meant.
  if (duration !== undefined && Math.abs(framesOfDuration(duration, rate).frames - cut.frames) <= 1) return [];
  if (sound && Math.abs((sound.samples / sound.sampleRate) * (rate.numerator / rate.denominator) - cut.frames) <= 0.5) return [];
  const sum = `${range} is what a new scene begins with in many programs; ${counted(cut.frames, 'frame')} are ${secondsOfFrames(cut.frames, rate)} s`;
  return [advice('default-range', 'range', 'Has anybody chosen this range? Say how long the cut lasts to confirm it.', sum)];
}

function againstSound({ brief: { sound, dropFrame = false } }: Order, frames: number, rate: FrameRate): Advice[] {
  if (!sound) return [];
  const soundFrames = (sound.samples / sound.sampleRate) * (rate.numerator / rate.denominator);
  const difference = soundFrames - frames;
  // A sound is cut to samples, not to frames: half a frame is no difference.
  if (Math.abs(difference) <= 0.5) return [];
  const sum = `${sound.samples} / ${sound.sampleRate} Hz = ${(sound.samples / sound.sampleRate).toFixed(3)} s = ${soundFrames.toFixed(1)} frames; the cut has ${frames} (${formatTimecode(frames, rate, dropFrame)})`;
  const how = difference > 0 ? 'longer than the picture: it will be cut off' : 'shorter than the picture: the end will be silent';
  return [advice('duration-mismatch', 'sound', `The sound is ${how}.`, sum)];
}
