import type { DepthSpan, PassFigures } from '../../assay/index.ts';
import { median } from '../../statistics.ts';
import { roughly } from '../../wording.ts';
import type { FindingCollector } from '../findings.ts';
import { beyondUsual } from './beyond-usual.ts';
import { framesElsewhere } from './offsets.ts';

/** So many pixels must have been hidden by what is said to be farther, and so many times as many as by what is nearer. */
const FEWEST_HIDDEN = 60;
const MOSTLY = 4;

/** A depth pass by which what hides is farther away than what is hidden: it counts the other way round. @param all of all passes */
export function findTurnedDepth(collector: FindingCollector, frames: readonly PassFigures[], all: readonly PassFigures[]): void {
  const told = frames.filter(({ order }) => order !== null);
  const sum = (of: 'byNearer' | 'byFarther') => told.reduce((all, { order }) => all + order![of], 0);
  const [nearer, farther] = [sum('byNearer'), sum('byFarther')];
  // A pass that shows another frame has its things elsewhere.
  if (told[0] && framesElsewhere(all, told[0].pass).length > told.length / 3) return;
  if (farther < FEWEST_HIDDEN || farther < MOSTLY * nearer) return;
  // One frame that lacks a part of its depth is told otherwise: a pass that is turned round is so in all frames that tell.
  const telling = told.filter(({ order }) => order!.byNearer + order!.byFarther > 0);
  if (2 * telling.filter(({ order }) => order!.byFarther > order!.byNearer).length <= telling.length) return;
  for (const { pass, frame, file, order } of told) {
    const evidence = `Of what was hidden a frame earlier it puts ${order!.byFarther} pixels before what hid them, ${order!.byNearer} behind it.`;
    collector.add('depth-implausible', pass, { frame, file, detail: 'larger where it is nearer, as the vectors show', evidence });
  }
}

/** Share of the pixels with something in them where a depth may say that nothing is there, beyond what the pass usually has; */
const MAY_LACK = 0.002;
/** and where all frames are alike, the share from which all of them are told: fine things, and what lenses blur, have less. */
const LACKS = 0.2;

/** Frames whose depth says that nothing is met where the picture has something. */
export function findLackingDepth(collector: FindingCollector, frames: readonly PassFigures[]): void {
  for (const { pass, frame, file, share } of beyondUsual(frames, 'nothingMet', MAY_LACK, () => LACKS)) {
    collector.add('depth-implausible', pass, {
      frame,
      file,
      detail: 'nothing',
      evidence: `In ${roughly(share * 100)} % of the pixels with something in them.`,
    });
  }
}

/** Frames on either side that tell where things are. */
const AROUND = 4;
/** Things are hardly so many times as far from one frame to the next, and back again; */
const TIMES = 2;
/** and another unit changes what is near as it does what is far, to this factor: what passes before the camera does not. */
const ALIKE = 1.5;

/** Frames whose distances are all many times those of the frames before and behind, or are one all over. */
export function findOtherScale(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const told = frames.flatMap(({ span, ...figures }) => (span ? [{ ...figures, span }] : []));
  told.forEach(({ pass, frame, file, span }, i) => {
    if (span.isFlat) {
      collector.add('depth-implausible', pass, { frame, file, detail: 'flat', evidence: `${sayDistance(span.near)} all over.` });
      return;
    }
    const sides = [told.slice(Math.max(0, i - AROUND), i), told.slice(i + 1, i + 1 + AROUND)].filter((side) => side.length > 0);
    // A cut goes on as it begins: only what comes back is odd. At an end there is one side only, which has to be sure of itself.
    const isOdd = sides.length > 0 && sides.every((side) => side.length >= (sides.length > 1 ? 1 : AROUND) && isOtherScale(span, usualOf(side)));
    if (!isOdd) return;
    const usual = usualOf(sides.flat());
    const evidence = `From ${sayDistance(span.near)} to ${sayDistance(span.far)}; around it from ${sayDistance(usual.near)} to ${sayDistance(usual.far)}.`;
    collector.add('depth-implausible', pass, { frame, file, detail: 'scale', evidence });
  });
}

type Reach = Pick<DepthSpan, 'near' | 'far'>;

const usualOf = (side: readonly { readonly span: DepthSpan }[]): Reach => ({
  near: median(side.map(({ span }) => span.near)),
  far: median(side.map(({ span }) => span.far)),
});

function isOtherScale(span: Reach, usual: Reach): boolean {
  const [near, far] = [Math.log(span.near / usual.near), Math.log(span.far / usual.far)];
  return Math.min(Math.abs(near), Math.abs(far)) > Math.log(TIMES) && Math.abs(near - far) < Math.log(ALIKE);
}

const sayDistance = (distance: number) => String(Number(distance.toPrecision(3)));
