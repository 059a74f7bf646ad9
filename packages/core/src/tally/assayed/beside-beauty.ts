import type { PassFigures } from '../../assay/index.ts';
import type { PassRole } from '../../brief/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCode } from '../codes.ts';
import type { FindingCollector } from '../findings.ts';

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
  const told = frames.filter(({ odd }) => odd !== null);
  if (told.length === 0) return;
  const usual = median(told.map(({ odd }) => odd!));
  for (const { pass, role, frame, file, odd } of told) {
    const code = ODD_CODE[role];
    if (!code || (odd! <= Math.max(MORE, 3 * usual) && odd! < MOST)) continue;
    collector.add(code, pass, { frame, file, evidence: `${(odd! * 100).toPrecision(2)} % of the pixels that the alpha covers.` });
  }
}

/** Fewer frames in a row show nothing: one that shows another frame repeats its neighbour, which the count tells. */
const FEWEST = 3;
/** What changes must fit the beauty's changes of another frame by this, over the run, and by so much better than those of its own. */
const FITS = 0.13;
const OWN_SHARE = 0.4;

/** Runs of frames of a pass that show the picture of another frame. */
export function findOffsets(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const told = frames.filter(({ changes }) => changes !== null);
  for (const side of [0, 2] as const) {
    const isLate = told.map(({ changes }) => changes![side] > changes![1] && changes![side] > changes![2 - side]!);
    for (let from = 0; from < told.length; from++) {
      let to = from;
      while (isLate[to]) to++;
      const run = told.slice(from, to);
      const meanOf = (place: 0 | 1 | 2) => run.reduce((sum, { changes }) => sum + changes![place], 0) / run.length;
      if (run.length >= FEWEST && meanOf(side) > FITS && meanOf(1) < OWN_SHARE * meanOf(side)) run.forEach((figures) => tellOffset(collector, figures, side));
      from = Math.max(from, to);
    }
  }
}

function tellOffset(collector: FindingCollector, { pass, frame, file, changes }: PassFigures, side: 0 | 2): void {
  const evidence = `What changes in it fits the change of that frame by ${changes![side].toFixed(2)}, of its own by ${changes![1].toFixed(2)}.`;
  collector.add('pass-offset', pass, { frame, file, detail: side === 0 ? 'a frame earlier' : 'a frame later', evidence });
}

/** Vectors explain what moves when they usually leave less than this. */
const EXPLAINS = 0.85;
/** A frame stands out by so many times what the others vary. */
const STANDS_OUT = 6;

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
