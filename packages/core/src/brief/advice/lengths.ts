import { formatTimecode, nominalRate, parseFrameRate, type FrameRate } from '../../timing/index.ts';
import { describeRun, framesOfDuration, secondsOfFrames } from '../duration.ts';
import type { Order } from '../order.ts';
import { advice, counted, type Advice, type AdviceRule } from './advice.ts';

/** The cut: the ordered frames without the handles. */
function cutOf(order: Order): { frames: number; first: number; last: number } | null {
  const run = describeRun(order.frames);
  // A stepped or broken range is a test; its length says nothing of the cut's.
  if (!run || run.step !== 1) return null;
  const [head, tail] = order.brief.handles ?? [0, 0];
  return { frames: run.count - head - tail, first: run.start + head, last: run.start + run.count - 1 - tail };
}

/** Ranges are inclusive at both ends, which is where one frame is lost or won. */
export const lengthRule: AdviceRule = (order) => {
  const cut = cutOf(order);
  const { fps, duration } = order.brief;
  if (!cut || fps === undefined) return [];
  const rate = parseFrameRate(fps);
  const found =
    duration === undefined ? againstWholeSeconds(cut, rate, order.brief.loop === true) : againstDuration(cut, duration, rate, order.brief.loop === true);
  return [...found, ...againstSound(order, cut.frames, rate)];
};

interface Cut {
  readonly frames: number;
  readonly first: number;
  readonly last: number;
}

function inclusive({ first, last, frames }: Cut): string {
  return `${last} - ${first} + 1 = ${frames}`;
}

function againstDuration(cut: Cut, duration: string, rate: FrameRate, loop: boolean): Advice[] {
  const wanted = framesOfDuration(duration, rate);
  const difference = cut.frames - wanted.frames;
  const sum = `${inclusive(cut)}; ${duration}${duration.includes(':') ? '' : ' s'} are ${wanted.exact ? '' : 'about '}${wanted.frames}`;
  if (difference === 0) {
    if (wanted.exact) return [];
    return [
      advice(
        'duration-mismatch',
        'duration',
        `${duration} s are no whole number of frames at this rate.`,
        `${wanted.frames} frames last ${secondsOfFrames(wanted.frames, rate)} s`,
      ),
    ];
  }
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
  if (cut.frames < second - 1 || second < 2) return [];
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
  if (difference === -1)
    return [advice('range-short', 'range', `The range is one frame short of ${counted(seconds, 'second')}.`, `${inclusive(cut)} = ${seconds} x ${second} - 1`)];
  return [];
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
