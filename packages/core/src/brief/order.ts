import { framePath, parseNamePattern, type NamePattern } from '../naming/index.ts';
import { parseFrameRange, type FrameSet } from '../ranges/index.ts';
import type { Brief, BriefPass } from './schema.ts';

/** One ordered pass, with everything that the brief's texts mean worked out. */
export interface OrderedPass {
  readonly pass: BriefPass;
  readonly pattern: NamePattern;
  readonly frames: FrameSet;
  /** Width and height in pixels, where stated. */
  readonly resolution: readonly [number, number] | null;
  /**
   * Index of the first pass that names the same files. A pass that lives as layers in another
   * pass's files points there; any other points at itself.
   */
  readonly owner: number;
}

/** What a brief orders. */
export interface Order {
  readonly brief: Brief;
  /** The shot's frames: those of the brief's range. */
  readonly frames: FrameSet;
  readonly passes: readonly OrderedPass[];
}

/** Works out what a brief orders: frames, patterns, and which passes share their files. */
export function workOutOrder(brief: Brief): Order {
  const frames = parseFrameRange(brief.range);
  const ownerByFiles = new Map<string, number>();
  const passes = brief.passes.map((pass, index): OrderedPass => {
    const pattern = parseNamePattern(pass.pattern);
    const files = framePath(pattern, 0) + '\u0000' + framePath(pattern, -1);
    const owner = ownerByFiles.get(files) ?? index;
    ownerByFiles.set(files, owner);
    return {
      pass,
      pattern,
      frames: pass.range === undefined ? frames : parseFrameRange(pass.range),
      resolution: pass.resolution ?? brief.resolution ?? null,
      owner,
    };
  });
  return { brief, frames, passes };
}
