import type { Severity } from '../brief/index.ts';

/** Families of findings, as in the design. */
export const families = ['count', 'names', 'soundness', 'kind', 'pixels', 'noise', 'passes'] as const;
export type Family = (typeof families)[number];

/**
 * What is done next about a finding; the docket's groups, in its order. What was never rendered is to be rendered,
 * what is there and wrong to be rendered again.
 */
export const nextActions = ['render', 'again', 'decide', 'tidy', 'wait'] as const;
export type NextAction = (typeof nextActions)[number];

interface CodeEntry<Of extends Family = Family> {
  readonly family: Of;
  readonly severity: Severity;
  readonly title: string;
  readonly action: NextAction;
}

const entry = <Of extends Family>(family: Of, severity: Severity, action: NextAction, title: string): CodeEntry<Of> => ({ family, severity, title, action });

/**
 * Every finding that a tally can raise: family, usual severity, what to do next, and its title in
 * the docket. The names are stable; they are used in the interface, the database and by scripts.
 */
export const findingCodes = {
  'missing-frame': entry('count', 'blocker', 'render', 'Frames missing'),
  'coming-frame': entry('count', 'blocker', 'wait', 'Frames still to come'),
  'stopgap-frame': entry('count', 'blocker', 'render', 'Stopgaps'),
  'missing-pass': entry('count', 'blocker', 'render', 'Pass missing'),
  'unexpected-frame': entry('count', 'warning', 'tidy', 'Frames outside the range'),
  'unplanned-sequence': entry('count', 'warning', 'decide', 'Sequence nobody ordered'),
  'duplicate-number': entry('count', 'blocker', 'decide', 'Two files for one frame'),
  'stray-file': entry('count', 'note', 'tidy', 'Stray files'),
  'wrong-name': entry('names', 'blocker', 'tidy', 'Wrong name'),
  'wrong-padding': entry('names', 'blocker', 'tidy', 'Padding differs'),
  'mixed-version': entry('names', 'blocker', 'decide', 'Another version'),
  'unsafe-name': entry('names', 'warning', 'tidy', 'Unsafe file name'),
  'empty-file': entry('soundness', 'blocker', 'again', 'Empty files'),
  'unwritten-file': entry('soundness', 'blocker', 'again', 'Files never written'),
  truncated: entry('soundness', 'blocker', 'again', 'Files cut short'),
  corrupt: entry('soundness', 'blocker', 'again', 'Files damaged'),
  'wrong-format': entry('soundness', 'blocker', 'again', 'Another file format'),
  'trailing-data': entry('soundness', 'warning', 'decide', 'Bytes behind the picture'),
  unreadable: entry('soundness', 'blocker', 'decide', 'Files cannot be read'),
  'still-writing': entry('soundness', 'blocker', 'decide', 'Still being written'),
  'not-examined': entry('soundness', 'note', 'decide', 'Pixels not looked into'),
  'wrong-resolution': entry('kind', 'blocker', 'again', 'Wrong resolution'),
  'wrong-pixel-aspect': entry('kind', 'warning', 'decide', 'Wrong pixel aspect'),
  'wrong-depth': entry('kind', 'blocker', 'again', 'Wrong bit depth'),
  'wrong-channels': entry('kind', 'blocker', 'again', 'Wrong channels'),
  'wrong-alpha': entry('kind', 'blocker', 'again', 'Wrong alpha'),
  'flat-alpha': entry('kind', 'warning', 'decide', 'Alpha without holes'),
  'wrong-compression': entry('kind', 'warning', 'decide', 'Other compression'),
  'wrong-window': entry('kind', 'warning', 'decide', 'Other window'),
  'wrong-rate': entry('kind', 'warning', 'decide', 'Other frame rate'),
  'wrong-colour-space': entry('kind', 'warning', 'decide', 'Other colour space'),
  'metadata-drift': entry('kind', 'warning', 'decide', 'Rendered otherwise'),
  'assumed-header': entry('kind', 'note', 'decide', 'Header leaves something out'),
  'size-outlier': entry('kind', 'note', 'decide', 'Odd file size'),
  'blank-frame': entry('pixels', 'warning', 'again', 'Blank frames'),
  'nan-pixels': entry('pixels', 'blocker', 'again', 'Pixels without a number'),
  'missing-region': entry('pixels', 'blocker', 'again', 'Blocks never written'),
  'frozen-frame': entry('pixels', 'warning', 'again', 'Frozen frames'),
  'copied-pass': entry('pixels', 'warning', 'again', 'Another pass’s picture'),
  'outdated-frame': entry('pixels', 'warning', 'again', 'Made of an earlier original'),
  jump: entry('pixels', 'warning', 'decide', 'The picture jumps'),
  'loop-repeat': entry('pixels', 'warning', 'decide', 'Last frame repeats the first'),
  'loop-jump': entry('pixels', 'warning', 'decide', 'Loop jumps at its seam'),
  flicker: entry('pixels', 'warning', 'again', 'Brightness flickers'),
  fireflies: entry('pixels', 'warning', 'decide', 'Fireflies'),
  banding: entry('pixels', 'warning', 'decide', 'Gradients in steps'),
  noisy: entry('noise', 'warning', 'again', 'Noisier than ordered'),
  'noise-shift': entry('noise', 'warning', 'decide', 'Noise differs along the shot'),
  'unsettled-start': entry('noise', 'warning', 'again', 'Start has not settled'),
  'pass-range-mismatch': entry('passes', 'blocker', 'render', 'Passes of other lengths'),
  'window-mismatch': entry('passes', 'warning', 'again', 'Window of another picture'),
  'pass-offset': entry('passes', 'warning', 'again', 'Pass shows another frame'),
  'alpha-mismatch': entry('passes', 'warning', 'decide', 'Alpha of another picture'),
  'depth-implausible': entry('passes', 'warning', 'again', 'Depth that cannot be'),
  'normal-implausible': entry('passes', 'warning', 'again', 'Normals of another length'),
  'matte-mismatch': entry('passes', 'warning', 'again', 'Matte that cannot be'),
  'id-implausible': entry('passes', 'warning', 'again', 'Ids that are no whole numbers'),
  'vector-implausible': entry('passes', 'warning', 'again', 'Vectors explain nothing'),
  'sum-mismatch': entry('passes', 'warning', 'again', 'Lights do not sum to the beauty'),
} as const satisfies Record<string, CodeEntry>;

export type FindingCode = keyof typeof findingCodes;

/** Whether a render mends what a code tells of, a first one or another. */
export function isMendedByRendering(code: FindingCode): boolean {
  const { action } = findingCodes[code];
  return action === 'render' || action === 'again';
}

/** Whether a text is one of our finding codes. */
export function isFindingCode(text: string): text is FindingCode {
  return Object.hasOwn(findingCodes, text);
}
