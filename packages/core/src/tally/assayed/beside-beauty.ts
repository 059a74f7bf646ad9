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

/** Fewer frames in a row show nothing: one that shows another frame repeats its neighbour, which the count tells. */
const FEWEST = 3;
/** What changes must fit the beauty's changes of another frame by this, over the run, and by so much better than those of its own. */
const FITS = 0.13;
const OWN_SHARE = 0.5;
/** It must also be so many times what noise alone makes of it: of so many pixels with an edge of their own one over their root. */
const SIGNIFICANT = 3;
const PIXELS_OF_AN_EDGE = 9;

/** Frames of a pass that show the picture of another frame: all of them, or a run. */
export function findOffsets(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const told = frames.filter(({ changes }) => changes !== null);
  const ownFit = (some: readonly PassFigures[]) => some.reduce((sum, { changes }) => sum + changes![1], 0) / some.length;
  for (const side of [0, 2] as const) {
    if (showsAnother(told, side)) {
      told.forEach((figures) => tellOffset(collector, figures, side));
      return;
    }
    const isLate = told.map(({ changes }) => changes![side] > changes![1] && changes![side] > changes![2 - side]!);
    for (let from = 0; from < told.length; from++) {
      let to = from;
      while (isLate[to]) to++;
      const run = told.slice(from, to);
      // Where a pass changes by parts of a pixel nothing fits, and now and then another frame by chance: the others must.
      const others = told.filter((one) => !run.includes(one));
      if (showsAnother(run, side) && ownFit(others) > FITS) run.forEach((figures) => tellOffset(collector, figures, side));
      from = Math.max(from, to);
    }
  }
}

function showsAnother(run: readonly PassFigures[], side: 0 | 2): boolean {
  const meanOf = (place: 0 | 1 | 2) => run.reduce((sum, { changes }) => sum + changes![place], 0) / run.length;
  const edges = run.reduce((sum, { changed }) => sum + changed, 0) / PIXELS_OF_AN_EDGE;
  const least = Math.max(FITS, SIGNIFICANT / Math.sqrt(edges));
  return run.length >= FEWEST && meanOf(side) > least && meanOf(1) < OWN_SHARE * meanOf(side);
}

function tellOffset(collector: FindingCollector, { pass, frame, file, changes }: PassFigures, side: 0 | 2): void {
  const evidence = `What changes in it fits the change of that frame by ${changes![side].toFixed(2)}, of its own by ${changes![1].toFixed(2)}.`;
  collector.add('pass-offset', pass, { frame, file, detail: side === 0 ? 'a frame earlier' : 'a frame later', evidence });
}

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

/** Frames whose vectors explain nothing, in a pass whose vectors do. */
export function findVectors(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const told = frames.filter(({ unexplained }) => unexplained !== null);
  if (told.length < FEWEST) return;
  const usual = median(told.map(({ unexplained }) => unexplained!));
  const spread = 1.4826 * median(told.map(({ unexplained }) => Math.abs(unexplained! - usual)));
  if (usual > EXPLAINS) return;
  for (const { pass, frame, file, unexplained } of told) {
    if (unexplained! < 1 || unexplained! - usual < STANDS_OUT * spread) continue;
    collector.add('vector-implausible', pass, {
      frame,
      file,
      evidence: `They leave ${unexplained!.toFixed(2)} of the difference to the frame before; usually ${usual.toFixed(2)}.`,
    });
  }
}
