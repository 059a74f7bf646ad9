import type { AssayedFrame } from '../../assay/index.ts';
import type { Brief } from '../../brief/index.ts';
import type { FindingCollector } from '../findings.ts';

/** Frames noisier than the brief's target, with the samples that it would take. */
export function findNoisy(collector: FindingCollector, { sampling }: Brief, frames: readonly AssayedFrame[]): void {
  const target = sampling?.noise;
  if (target === undefined) return;
  const noisy = frames.filter(({ noise }) => noise !== null && noise > target);
  if (noisy.length === 0) return;
  const worst = noisy.reduce((most, frame) => (frame.noise! > most.noise! ? frame : most));
  const times = (worst.noise! / target) ** 2;
  // The error falls as the square root of the samples.
  const samples = sampling?.samples === undefined ? `${times.toPrecision(2)} times the samples` : `${Math.ceil(sampling.samples * times)} samples`;
  const hours =
    sampling?.secondsPerFrame === undefined
      ? ''
      : `, ${((noisy.length * sampling.secondsPerFrame * times) / 3600).toPrecision(2)} hours for these frames on one machine`;
  const detail = `up to ${worst.noise!.toPrecision(3)} in frame ${worst.frame}, where ${target} was ordered; by the square root law ${samples} would do${hours}`;
  for (const { frame, file, pass, noise } of noisy) collector.add('noisy', pass, { frame, file, detail, evidence: `Noise ${noise!.toPrecision(3)}.` });
}
