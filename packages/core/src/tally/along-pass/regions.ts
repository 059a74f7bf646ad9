import type { EmptyRegion } from '../../assay/index.ts';
import type { Hole } from '../../inspection/index.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** A thing that moves is looked for in so many frames to either side: packing with losses blurs its edges in some. */
const NEAR = 3;

/** Two regions that share this much of what they cover together are one that moved. */
const SAME = 0.5;

/**
 * Blocks that were never written: zeros with straight edges that the frames around do not have.
 * The same stretch in most frames is a letterbox or a crop; one that moves from frame to frame is
 * a thing in the picture.
 */
export function findMissingRegions(collector: FindingCollector, pass: SeenPass): void {
  if (!pass.ownsFiles) return;
  const { frames } = pass;
  frames.forEach((frame, i) => {
    const regions = frame.facts.pixels?.emptyRegions ?? [];
    if ((regions.length === 0 && frame.facts.holes.length === 0) || frame.isOdd || frame.isBlank) return;
    const torn = regions.filter((region) => isTorn(region, i, frames));
    const evidence = torn.length > 0 ? tellRegions(torn) : tellHoles(holesOf(i, frames));
    if (evidence === null) return;
    collector.add('missing-region', pass.name, { frame: frame.frame, file: frame.file.path, evidence, beside: (frames[i - 1] ?? frames[i + 1])?.file.path });
  });
}

function tellRegions(torn: readonly EmptyRegion[]): string {
  return `Zero in every channel: ${torn.map(({ x, y, width, height }) => `${width} x ${height} at ${x}, ${y}`).join('; ')}.`;
}

function tellHoles(holes: readonly Hole[]): string | null {
  if (holes.length === 0) return null;
  return `A block of the disk was never filled: ${holes.map(({ offset, length }) => `${length} bytes are zero from byte ${offset} on`).join('; ')}.`;
}

/** A frame's holes, without those that a frame beside it has at the same place: no disk fails twice alike. */
function holesOf(index: number, frames: readonly SeenFrame[]): Hole[] {
  const beside = [frames[index - 1], frames[index + 1]].flatMap((frame) => frame?.facts.holes ?? []);
  return frames[index].facts.holes.filter(({ offset, length }) => !beside.some((other) => other.offset === offset && other.length === length));
}

function isTorn(region: EmptyRegion, index: number, frames: readonly SeenFrame[]): boolean {
  let same = 0;
  let looked = 0;
  for (const [i, other] of frames.entries()) {
    if (i === index || !other.facts.pixels) continue;
    looked++;
    const twin = other.facts.pixels.emptyRegions.find((candidate) => overlap(candidate, region) >= SAME);
    if (!twin) continue;
    if (isEqual(twin, region)) same++;
    // Moved or grown a little close by: a thing, not a tear. Lines that were never reached end where they will.
    else if (Math.abs(i - index) <= NEAR && !isRest(region, frames[index])) return false;
  }
  // With no other frame to compare, what is inside the picture on three sides is no letterbox.
  if (looked === 0) return isInside(region, frames[index]);
  return same * 2 < looked;
}

/** Whether a region is all that comes after some line. */
function isRest({ x, y, width, height }: EmptyRegion, frame: SeenFrame): boolean {
  const [pictureWidth, pictureHeight] = sizeOf(frame);
  return x === 0 && width === pictureWidth && y + height === pictureHeight;
}

function sizeOf({ header }: SeenFrame): [number, number] {
  const window = header.dataWindow;
  return window ? [window[2] - window[0] + 1, window[3] - window[1] + 1] : [header.width, header.height];
}

function isInside({ x, y, width, height }: EmptyRegion, frame: SeenFrame): boolean {
  const [pictureWidth, pictureHeight] = sizeOf(frame);
  return [x > 0, y > 0, x + width < pictureWidth, y + height < pictureHeight].filter(Boolean).length >= 3;
}

function isEqual(a: EmptyRegion, b: EmptyRegion): boolean {
  return a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;
}

function overlap(a: EmptyRegion, b: EmptyRegion): number {
  const across = Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x);
  const down = Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y);
  if (across <= 0 || down <= 0) return 0;
  const shared = across * down;
  return shared / (a.width * a.height + b.width * b.height - shared);
}
