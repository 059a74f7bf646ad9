import type { Order } from '../brief/index.ts';
import type { FrameSet } from '../ranges/index.ts';
import type { Assignment, Claim } from './assign.ts';

/** Frames that somebody is still rendering. */
export interface Coming {
  readonly frames: FrameSet;
  /** The passes that are rendered; all of them when null. */
  readonly passes: ReadonlySet<string> | null;
  /** Whether they will be written whatever is there: then a broken file is one on its way out. */
  readonly replaces: boolean;
  /** When that began, in milliseconds since 1970: what is older than this is to be replaced. */
  readonly since: number;
}

/** A file that has not changed for so many milliseconds is not being written any more. */
export const SETTLED_AFTER = 3000;

/**
 * Sets aside what stands for frames that are still to come: files that are older than their
 * rendering, and files that were written a moment ago. A file is not judged while it is written.
 */
export function setAsideComing(order: Order, assignment: Assignment, coming: Coming, now: number): Assignment {
  const { frames, since } = coming;
  const isJudged = ({ file }: Claim) => file.modified >= since && now - file.modified >= SETTLED_AFTER;
  const claims = assignment.claims.map((byFrame, pass) => {
    if (!isComing(order, pass, coming)) return byFrame;
    const kept = new Map<number, readonly Claim[]>();
    for (const [frame, list] of byFrame) {
      const judged = frames.has(frame) ? list.filter(isJudged) : list;
      if (judged.length > 0) kept.set(frame, judged);
    }
    return kept;
  });
  return { ...assignment, claims, stillWriting: assignment.stillWriting.filter(({ frame }) => !frames.has(frame)) };
}

/** Whether the files of a pass are being rendered, for it or for a pass that lives in them. */
export function isComing(order: Order, owner: number, { passes }: Coming): boolean {
  return passes === null || order.passes.some((pass) => pass.owner === owner && passes.has(pass.pass.name));
}
