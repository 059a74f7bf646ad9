import { frameKindOf, isSamePacking } from '../formats/index.ts';
import { extensionOf } from '../naming/index.ts';
import type { Order, OrderedPass } from './order.ts';

/** Channels that a role has when the brief does not name them. */
const USUAL_CHANNELS: Readonly<Record<string, number>> = { depth: 1, occlusion: 1, matte: 1, id: 1, motion: 2, normal: 3, albedo: 3, light: 3 };

/** What a pass will take on disk. */
export interface PassPlan {
  readonly pass: string;
  /** 0 for a pass that lives in another's files. */
  readonly files: number;
  readonly bytes: number;
  /** Whether the bytes come from frames that are there, not from a stated share. */
  readonly known: boolean;
}

export interface DiskPlan {
  readonly files: number;
  readonly bytes: number;
  /** False as soon as one pass is estimated. */
  readonly known: boolean;
  readonly passes: readonly PassPlan[];
}

/**
 * Plans the disk that an order will take.
 *
 * @param knownBytes mean bytes of one of the pass's files where some are there; for a pass that
 *   lives in another's files nothing is asked
 * @returns null when not even the resolution is stated
 */
export function planDisk(order: Order, knownBytes: (pass: string) => number | null): DiskPlan | null {
  const passes: PassPlan[] = [];
  for (const [index, ordered] of order.passes.entries()) {
    const files = ordered.owner === index ? ordered.frames.size : 0;
    const mean = ordered.owner === index ? knownBytes(ordered.pass.name) : null;
    if (mean !== null) {
      passes.push({ pass: ordered.pass.name, files, bytes: Math.round(mean * files), known: true });
      continue;
    }
    const ownerKnown = ordered.owner !== index && passes[ordered.owner]?.known;
    const each = ownerKnown ? 0 : estimateBytes(order.passes[ordered.owner]!, ordered);
    if (each === null) return null;
    passes.push({ pass: ordered.pass.name, files, bytes: Math.round(each * ordered.frames.size), known: false });
  }
  const owners = passes.filter((plan) => plan.files > 0);
  return {
    files: passes.reduce((sum, plan) => sum + plan.files, 0),
    bytes: passes.reduce((sum, plan) => sum + plan.bytes, 0),
    known: owners.every((plan) => plan.known),
    passes,
  };
}

/** Bytes that a pass adds to one file, by what its brief states; null without a resolution. */
function estimateBytes(owner: OrderedPass, { pass, resolution }: OrderedPass): number | null {
  if (!resolution) return null;
  const channels = pass.channels?.length ?? (pass.role === undefined ? undefined : USUAL_CHANNELS[pass.role]) ?? (pass.alpha && pass.alpha !== 'none' ? 4 : 3);
  return resolution[0] * resolution[1] * channels * bytesPerSample(owner, pass.depth) * packedShare(owner);
}

function bytesPerSample(owner: OrderedPass, depth: string | undefined): number {
  if (depth === 'float' || depth === 'uint') return 4;
  if (depth === 'half' || depth === '16' || depth === '12') return 2;
  if (depth === '10') return 4 / 3;
  if (depth === '8') return 1;
  return frameKindOf(formatOf(owner))?.holds.depths[0] === 'half' ? 2 : 1;
}

/** The extension of a pass's files, in small letters. */
export function formatOf(ordered: OrderedPass): string {
  return extensionOf(ordered.pattern.suffix).toLowerCase();
}

/** Share of the unpacked bytes that a packed frame takes; a stated estimate, which the frames of the shot replace. */
function packedShare(owner: OrderedPass): number {
  const holds = frameKindOf(formatOf(owner))?.holds;
  if (!holds) return 1;
  const [ordered = holds.usual] = owner.pass.compression ?? [];
  const known = Object.keys(holds.packings).find((packing) => isSamePacking(packing, ordered)) ?? holds.usual;
  return holds.packings[known]!.share;
}
