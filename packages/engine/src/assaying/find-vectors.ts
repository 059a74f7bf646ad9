import { findConvention, type Brief, type FoundConvention, type VectorWitness } from '@mint-tally/core';
import { FrameReader } from './frame-reader.ts';
import type { AssayPlan, FramePlan } from './plan.ts';

/** Frames that are asked what the vectors mean, the middle one first: as shares of all. */
const WITNESSES = [3 / 6, 1 / 6, 5 / 6];

/** What a shot's motion vectors mean: as the brief says, else by a few of its frames; null where it has none. */
export function conventionOf(folder: string, { frames, passes }: AssayPlan, brief: Brief): FoundConvention | null {
  const moving = frames.flatMap((plan, i) => (plan.features.motion ? [i] : []));
  if (moving.length === 0) return null;
  const said = brief.passes.find(({ role }) => role === 'motion')?.vectors;
  if (said) return { convention: said, residual: null, isSaid: true };
  const pass = passes[0]!;
  const reader = new FrameReader(folder);
  // Those with a frame on either side come first: they can tell all conventions apart.
  const inside = moving.filter((i) => i > 0 && i < frames.length - 1);
  const pool = inside.length > 0 ? inside : moving;
  const chosen = new Set(WITNESSES.map((share) => pool[Math.floor(share * pool.length)]!));
  return findConvention(witnessesAt(chosen, pass, frames, reader));
}

/** Each is read when it is asked: the albedo of the first, where it has one, which mostly tells it alone; then all that shows surfaces. */
function* witnessesAt(chosen: ReadonlySet<number>, pass: string, frames: readonly FramePlan[], reader: FrameReader): Generator<VectorWitness> {
  const first = [...chosen][0]!;
  const byTexture = frames[first]!.features.albedo && witnessAt(first, pass, frames.map(withTextureAlone), reader);
  if (byTexture) yield byTexture;
  for (const i of chosen) {
    const witness = witnessAt(i, pass, frames, reader);
    if (witness) yield witness;
  }
}

const withTextureAlone = (plan: FramePlan): FramePlan => ({ ...plan, features: { ...plan.features, normal: null, depth: null } });

/** A frame, its vectors and what stands beside it: shown by its albedo, which has no noise, else by the picture. Null where neither fits the vectors. */
function witnessAt(i: number, pass: string, frames: readonly FramePlan[], reader: FrameReader): VectorWitness | null {
  for (const shownBy of [(plan: FramePlan) => plan.features.albedo, (plan: FramePlan) => plan.colours[pass] ?? null]) {
    const buffers = (plan: FramePlan | undefined) => (plan ? reader.surfacesOf(plan, shownBy(plan)) : null);
    const frame = buffers(frames[i]);
    const vectors = frame && reader.vectorsOf(frames[i]!, shownBy(frames[i]!));
    reader.forget();
    if (!vectors) continue;
    const [before, after] = [i - 1, i + 1].map((j) => {
      const other = buffers(frames[j]);
      reader.forget();
      return other && other.width === frame.width && other.height === frame.height ? other : null;
    });
    return { frame, vectors, before: before!, after: after! };
  }
  return null;
}
