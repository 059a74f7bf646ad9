import { costOfClean, type AssayedFrame, type CleanCost } from '../../assay/index.ts';
import type { Brief } from '../../brief/index.ts';
import type { FindingCollector } from '../findings.ts';
import { counted, roughly } from '../../wording.ts';

/** Frames noisier than the brief's target, with the samples that it would take and what those cost. */
export function findNoisy(collector: FindingCollector, { sampling }: Brief, frames: readonly AssayedFrame[]): void {
  const target = sampling?.noise;
  const cost = target === undefined ? null : costOfClean(frames, target, sampling);
  if (target === undefined || cost === null) return;
  const { worst } = cost;
  const detail = `up to ${worst.noise!.toPrecision(3)} in frame ${worst.frame}, where ${target} was ordered; ${sayCost(cost)}`;
  for (const { frame, file, pass, noise } of frames)
    if (noise !== null && noise > target) collector.add('noisy', pass, { frame, file, detail, evidence: `Noise ${noise.toPrecision(3)}.` });
}

function sayCost({ times, samples, by, hours, crop }: CleanCost): string {
  const law = by === 'tests' ? 'by the fit of the test frames' : 'by the square root law';
  if (!Number.isFinite(times)) return `${law} no number of samples brings it down so far`;
  const needed = samples === null ? `${roughly(times)} times the samples` : counted(samples, 'sample');
  if (hours === null) return `${law} ${needed} would do`;
  const [left, top, width, height] = crop ?? [0, 0, 0, 0];
  const ofCrop = crop ? `, or ${sayHours(hours.crop)} for a crop of ${width} x ${height} pixels at ${left}, ${top}` : '';
  const frames = hours.noisy === hours.whole ? '' : `, ${sayHours(hours.noisy)} for these frames`;
  return `${law} ${needed} would do: on one machine ${sayHours(hours.whole)} for the whole shot${frames}${ofCrop}`;
}

const sayHours = (hours: number) =>
  hours >= 1 ? `${roughly(hours)} hours` : hours * 60 >= 1 ? `${roughly(hours * 60)} minutes` : `${roughly(hours * 3600)} seconds`;
