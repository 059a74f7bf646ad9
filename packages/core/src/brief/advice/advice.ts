import type { Order } from '../order.ts';
import type { Severity } from '../schema.ts';

/** What can be said of a brief before anything is rendered: usual severity and title of each code. */
export const adviceCodes = {
  'range-short': { severity: 'warning', title: 'One frame too short' },
  'range-long': { severity: 'warning', title: 'One frame too long' },
  'default-range': { severity: 'warning', title: 'Range that nobody chose' },
  'duration-mismatch': { severity: 'warning', title: 'Lengths differ' },
  'loop-repeat': { severity: 'warning', title: 'Loop repeats its first frame' },
  'padding-overflow': { severity: 'warning', title: 'Padding too short' },
  'name-collision': { severity: 'blocker', title: 'Two passes write one file' },
  'unsafe-name': { severity: 'warning', title: 'Unsafe file name' },
  'scaled-render': { severity: 'warning', title: 'Not the whole picture' },
  'format-limit': { severity: 'warning', title: 'The format cannot hold it' },
  'lossy-format': { severity: 'warning', title: 'Lossy format' },
  banding: { severity: 'warning', title: 'Gradients will band' },
  'heavy-format': { severity: 'note', title: 'Heavier than needed' },
  'role-depth': { severity: 'warning', title: 'Depth too small for the role' },
  'alpha-lacking': { severity: 'warning', title: 'Alpha without a channel' },
  'temporary-folder': { severity: 'warning', title: 'Folder that is cleared' },
  'disk-short': { severity: 'warning', title: 'Disk too small' },
} as const satisfies Record<string, { severity: Severity; title: string }>;
export type AdviceCode = keyof typeof adviceCodes;

/** One thing that is wrong or odd with a brief. */
export interface Advice {
  readonly code: AdviceCode;
  readonly severity: Severity;
  /** The entry that it is about, such as `range` or `passes.1.depth`. */
  readonly field: string;
  readonly message: string;
  /** The sum that shows it. */
  readonly sum: string;
}

/** What is known of the world around a brief. */
export interface AdviceContext {
  /** Real path of the folder that the frames go to; null when it is not chosen yet. */
  readonly folder: string | null;
  readonly freeBytes: number | null;
  /** What the order will take; null when it cannot be said. */
  readonly plannedBytes: number | null;
}

/** One rule: looks at an order and gives what it finds. */
export type AdviceRule = (order: Order, context: AdviceContext) => Advice[];

export function advice(code: AdviceCode, field: string, message: string, sum: string): Advice {
  return { code, severity: adviceCodes[code].severity, field, message, sum };
}
