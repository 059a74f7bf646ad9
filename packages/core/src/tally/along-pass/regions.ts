import type { EmptyRegion } from '../../assay/index.ts';
import type { Hole } from '../../inspection/index.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** A thing that moves is looked for in so many frames to either side: packing with losses blurs its edges in some. */
const NEAR = 3;

/** Two regions that share this much of what they cover together are one that moved. */
const SAME = 0.5;

/** Around a block that was never written stands a picture; so much of its edge must be alive. */
const ALIVE = 0.4;
/** Renderers write by buckets whose sides are multiples of this, on a grid of the same. */
const BUCKET = 16;

/**
 * Blocks that were never written: zeros with straight edges that the frames around do not have, with a living picture
 * beside them. The same stretch in most frames is a letterbox or a crop; one that moves from frame to frame is a thing
 * in the picture; what has flat colours beside it was drawn so.
 */
export function findMissingRegions(collector: FindingCollector, pass: SeenPass): void {
  if (!pass.ownsFiles) return;
  const { frames } = pass;
  const known = new KnownRegions(frames);
  frames.forEach((frame, i) => {
    const regions = frame.facts.pixels?.emptyRegions ?? [];
    if ((regions.length === 0 && frame.facts.holes.length === 0) || frame.isOdd || frame.isBlank) return;
    const torn = regions.filter((region) => isTorn(region, i, frames, known));
    const evidence = torn.length > 0 ? tellRegions(torn) : tellHoles(holesOf(i, frames));
    if (evidence === null) return;
    collector.add('missing-region', pass.name, { frame: frame.frame, file: frame.file.path, evidence, beside: (frames[i - 1] ?? frames[i + 1])?.file.path });
  });
}

/** In how many frames of a pass each region stands. */
class KnownRegions {
  /** Frames whose pixels were looked at. */
  readonly looked: number;
  private readonly counts = new Map<string, number>();

  constructor(frames: readonly SeenFrame[]) {
    const seen = frames.filter(({ facts }) => facts.pixels !== null);
    this.looked = seen.length;
    for (const { facts } of seen) for (const region of facts.pixels!.emptyRegions) this.counts.set(keyOf(region), this.of(region) + 1);
  }

  of(region: EmptyRegion): number {
    return this.counts.get(keyOf(region)) ?? 0;
  }
}

const keyOf = ({ x, y, width, height }: EmptyRegion) => `${x} ${y} ${width} ${height}`;

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
  return frames[index]!.facts.holes.filter(({ offset, length }) => !beside.some((other) => other.offset === offset && other.length === length));
}

function isTorn(region: EmptyRegion, index: number, frames: readonly SeenFrame[], known: KnownRegions): boolean {
  const frame = frames[index]!;
  if (region.living < ALIVE) return false;
  const [others, same] = [known.looked - 1, known.of(region) - 1];
  // With no other frame to compare it must be a block or a bucket; what is inside the picture on three sides is no letterbox.
  if (others === 0) return isInside(region, frame) && isBlock(region, frame);
  if (same * 2 >= others) return false;
  // Lines that were never reached end where they will.
  if (isRest(region, frame)) return true;
  // Moved or grown a little close by: a thing, not a tear.
  for (let i = Math.max(0, index - NEAR); i <= Math.min(frames.length - 1, index + NEAR); i++) {
    const near = i === index ? [] : (frames[i]!.facts.pixels?.emptyRegions ?? []);
    if (near.some((other) => !isEqual(other, region) && overlap(other, region) >= SAME)) return false;
  }
  return true;
}

/** Whether a region is a block of the file's own layout, several of them, or a bucket: on a grid, and whole. */
function isBlock(region: EmptyRegion, frame: SeenFrame): boolean {
  const { blocks } = frame.header;
  return (
    region.pixels === region.width * region.height && (isOnGrid(region, frame, BUCKET, BUCKET) || (blocks !== undefined && isOnGrid(region, frame, ...blocks)))
  );
}

/** Whether a region begins and ends on a grid, or at the picture's edge. */
function isOnGrid({ x, y, width, height }: EmptyRegion, frame: SeenFrame, across: number, down: number): boolean {
  const [pictureWidth, pictureHeight] = sizeOf(frame);
  const ends = (end: number, step: number, size: number) => end % step === 0 || end === size;
  return x % across === 0 && y % down === 0 && ends(x + width, across, pictureWidth) && ends(y + height, down, pictureHeight);
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
