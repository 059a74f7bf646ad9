import type { PassFigures } from '../../assay/index.ts';
import type { PassRole } from '../../brief/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCode } from '../codes.ts';
import { beyondUsual } from './beyond-usual.ts';
import type { FindingCollector } from '../findings.ts';
import { roughly } from '../../wording.ts';

const ODD_CODE: Partial<Record<PassRole, FindingCode>> = {
  depth: 'depth-implausible',
  normal: 'normal-implausible',
  occlusion: 'matte-mismatch',
  matte: 'matte-mismatch',
  id: 'id-implausible',
};
/** Share of the covered pixels that may be odd beyond what the pass usually has; */
const MORE = 0.002;
/** and where all frames are alike, the share from which all of them are told. */
const MOST = 0.2;

/** Frames of a pass that hold what such a pass cannot hold. */
export function findOddValues(collector: FindingCollector, frames: readonly PassFigures[]): void {
  for (const { pass, role, frame, file, share } of beyondUsual(frames, 'odd', MORE, () => MOST)) {
    const code = ODD_CODE[role];
    if (code) collector.add(code, pass, { frame, file, evidence: `${roughly(share * 100)} % of the pixels that the alpha covers.` });
  }
}

/** Mattes sum to the alpha when they usually miss it in less than this share of the pixels; */
const SUMS = 0.005;
/** and a frame is told when they miss it in more. */
const MISSES = 0.02;

/** Frames whose mattes do not sum to the alpha, where those of the others do; of several mattes the one that changes most is named. */
export function findMatteGaps(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const mattes = frames.filter(({ gap }) => gap !== null);
  const byFrame = new Map(mattes.map((one) => [one.frame, mattes.filter(({ frame }) => frame === one.frame)]));
  const numbers = [...byFrame.keys()];
  const step = numbers.slice(1).reduce((least, frame, i) => Math.min(least, frame - numbers[i]!), Infinity);
  if (byFrame.size < FEWEST || median([...byFrame.values()].map(([one]) => one!.gap!)) > SUMS) return;
  const departure = ({ pass, frame, mean }: PassFigures) => {
    const beside = [frame - step, frame + step].flatMap((number) => byFrame.get(number)?.find((one) => one.pass === pass)?.mean ?? []);
    return beside.length === 0 ? 0 : Math.abs((mean ?? 0) - beside.reduce((sum, value) => sum + value, 0) / beside.length);
  };
  for (const own of byFrame.values()) {
    if (own[0]!.gap! < MISSES) continue;
    const { pass, frame, file, gap } = own.reduce((most, one) => (departure(one) > departure(most) ? one : most));
    collector.add('matte-mismatch', pass, { frame, file, detail: 'sum', evidence: `In ${roughly(gap! * 100)} % of the pixels.` });
  }
}

/** Fewer frames tell nothing. */
const FEWEST = 3;
/** Vectors explain what moves when they usually leave less than this. */
const EXPLAINS = 0.85;
/** A frame stands out by so many times what the others vary. */
const STANDS_OUT = 6;

/** So much of what vectors say moves may stand still: things behind glass, and a texture that repeats. */
const MAY_STAND = 0.2;
/** Where all of it does a frame was frozen, which the count tells, unless it is so all along the shot. */
const FROZEN = 0.99;

/** Frames whose vectors say that something moves which stands still. */
export function findVectorsOfStill(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const told = frames.filter(({ standing }) => standing !== null);
  const frozen = told.filter(({ standing }) => standing! > FROZEN);
  for (const { pass, frame, file, standing } of told) {
    if (standing! < MAY_STAND || (standing! > FROZEN && 2 * frozen.length <= told.length)) continue;
    collector.add('vector-implausible', pass, { frame, file, detail: 'still', evidence: `${roughly(standing! * 100)} % of what they say moves stands still.` });
  }
}

/** Frames in which albedo or normals are as they were a frame before, in a pass that usually changes. */
function framesThatRepeat(passes: readonly PassFigures[]): Set<number> {
  const surfaces = passes.filter(({ role }) => role === 'albedo' || role === 'normal');
  const names = [...new Set(surfaces.map(({ pass }) => pass))];
  const repeated = names.flatMap((name) => {
    const own = surfaces.filter(({ pass }) => pass === name);
    const repeats = own.slice(1).filter(({ changed }) => changed === 0);
    return 2 * repeats.length < own.length ? repeats : [];
  });
  return new Set(repeated.map(({ frame }) => frame));
}

/** Vectors that turned round leave less than this share of what they leave lead the other way. */
const TURNED = 0.7;

/**
 * Frames whose vectors explain nothing, in a pass whose vectors do; or lead the other way, in a pass whose vectors do not.
 * What they are held against are the passes that show surfaces: where one of these repeats nothing is said of the vectors.
 */
export function findVectors(collector: FindingCollector, frames: readonly PassFigures[], passes: readonly PassFigures[]): void {
  const repeated = framesThatRepeat(passes);
  const told = frames.filter(({ unexplained, frame }) => unexplained !== null && !repeated.has(frame));
  if (told.length < FEWEST) return;
  const usual = median(told.map(({ unexplained }) => unexplained!));
  const spread = 1.4826 * median(told.map(({ unexplained }) => Math.abs(unexplained! - usual)));
  const leadsBack = ({ unexplained, turned }: PassFigures) => unexplained! >= 1 && turned !== null && turned < TURNED * unexplained!;
  const isWrong = (one: PassFigures) => usual <= EXPLAINS && one.unexplained! >= 1 && one.unexplained! - usual >= STANDS_OUT * spread;
  // What all of them mean is a matter of convention.
  const isTold = 2 * told.filter(leadsBack).length < told.length ? leadsBack : () => false;
  for (const one of told) {
    if (!isWrong(one) && !isTold(one)) continue;
    const { pass, frame, file, unexplained, turned } = one;
    const otherwise = isTold(one) ? `turned round ${turned!.toFixed(2)}` : `usually ${usual.toFixed(2)}`;
    collector.add('vector-implausible', pass, {
      frame,
      file,
      evidence: `They leave ${unexplained!.toFixed(2)} of the difference to the frame before; ${otherwise}.`,
    });
  }
}
