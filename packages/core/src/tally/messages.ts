import type { FindingCode } from './codes.ts';
import type { MessageFacts } from './findings.ts';
import { counted } from '../wording.ts';

/** Findings whose sentence does not hold yet what was measured of the file. */
const MEASURED: ReadonlySet<FindingCode> = new Set([
  'wrong-alpha',
  'blank-frame',
  'nan-pixels',
  'missing-region',
  'frozen-frame',
  'jump',
  'loop-repeat',
  'loop-jump',
]);

/** The sentence of a finding: what is wrong, and of a single file what shows it. */
export function writeMessage(code: FindingCode, facts: MessageFacts): string {
  const sentence = writeSentence(code, facts);
  const first = facts.evidence[0]!;
  return MEASURED.has(code) && facts.evidence.length === 1 && first.message !== '' ? `${sentence} ${first.message}` : sentence;
}

function writeSentence(code: FindingCode, facts: MessageFacts): string {
  const frames = counted(facts.frames.size, 'frame');
  const files = counted(facts.files.length, 'file');
  const one = facts.files.length === 1;
  const { detail } = facts;
  switch (code) {
    case 'missing-frame':
      return `${frames} ${facts.frames.size === 1 ? 'has' : 'have'} no file.`;
    case 'coming-frame':
      return `${frames} ${facts.frames.size === 1 ? 'is' : 'are'} being rendered, or wait${facts.frames.size === 1 ? 's' : ''} to be.`;
    case 'stopgap-frame':
      return `${frames} ${facts.frames.size === 1 ? 'is' : 'are'} filled with a neighbour, and still to be rendered.`;
    case 'missing-pass':
      return `The pass has no file at all; ${frames} ${facts.frames.size === 1 ? 'was' : 'were'} ordered.`;
    case 'unexpected-frame':
      return `${files} ${one ? 'carries a number' : 'carry numbers'} outside the ordered range or off its step.`;
    case 'unplanned-sequence':
      return `${files} named ${detail} that no pass ordered.`;
    case 'duplicate-number':
      return `${counted(facts.frames.size, 'frame')} claimed by more than one file.`;
    case 'stray-file':
      return `${files} that ${one ? 'belongs' : 'belong'} to no pass.`;
    case 'wrong-name':
      return `${files} ${one ? 'is' : 'are'} named differently: ${detail}.`;
    case 'wrong-padding':
      return `${files} ${one ? 'carries its number' : 'carry their numbers'} with other padding than ordered.`;
    case 'mixed-version':
      return `${files} ${one ? 'comes' : 'come'} from another version: ${detail}.`;
    case 'unsafe-name':
      return `${files} whose name will not survive on every system: ${detail}.`;
    case 'wrong-resolution':
    case 'wrong-pixel-aspect':
    case 'wrong-depth':
    case 'wrong-channels':
    case 'wrong-alpha':
    case 'wrong-compression':
    case 'wrong-window':
    case 'wrong-rate':
    case 'wrong-colour-space':
    case 'metadata-drift':
    case 'assumed-header':
      return `${files}: ${detail}.`;
    case 'flat-alpha':
      return `The alpha is 1 in every pixel of ${files}, although parts of the picture are empty: nothing can be put behind it.`;
    case 'blank-frame':
      return `${files} ${one ? 'is' : 'are'} one colour all over.`;
    case 'nan-pixels':
      return `${files} with pixels that hold no number, or an infinite one.`;
    case 'missing-region':
      return `${files} with blocks that were never written.`;
    case 'frozen-frame':
      return `${frames} ${facts.frames.size === 1 ? 'repeats' : 'repeat'} the picture before, while the shot moves${detail === '' ? '' : `: ${detail}`}.`;
    case 'copied-pass':
      return `${files} ${one ? 'holds' : 'hold'} the picture of ${detail}.`;
    case 'outdated-frame':
      return `${files} ${one ? 'was' : 'were'} made of another ${detail} than is there now.`;
    case 'jump':
      return `The picture is another one from one frame to the next.`;
    case 'flicker':
      return `${frames} ${facts.frames.size === 1 ? 'is' : 'are'} ${detail}.`;
    case 'fireflies':
      return `${frames} with many more fireflies than usual: ${detail}.`;
    case 'noisy':
      return `${frames} ${facts.frames.size === 1 ? 'is' : 'are'} noisier than ordered: ${detail}.`;
    case 'noise-shift':
      return `${frames} ${facts.frames.size === 1 ? 'is' : 'are'} ${detail}.`;
    case 'unsettled-start':
      return `The first ${frames} ${facts.frames.size === 1 ? 'has' : 'have'} not settled: ${detail}.`;
    case 'pass-offset':
      return `${frames} ${facts.frames.size === 1 ? 'shows' : 'show'} the picture of the beauty ${detail}.`;
    case 'pass-range-mismatch':
      return `It runs over ${detail}.`;
    case 'window-mismatch':
      return `${frames} with the ${detail}.`;
    case 'alpha-mismatch':
      return `In ${frames} its alpha is another than that of the beauty.`;
    case 'depth-implausible':
      return depthMessage(frames, detail);
    case 'normal-implausible':
      return `${frames} with normals that are not of length 1.`;
    case 'matte-mismatch':
      return detail === '' ? `${frames} with values outside of 0 to 1.` : `In ${frames} the mattes do not sum to the alpha, as they do in the other frames.`;
    case 'banding':
      return `Soft gradients of ${frames} stand in steps that no noise hides: 8 bits are too few for them.`;
    case 'id-implausible':
      return `${frames} with ids that are no whole numbers.`;
    case 'vector-implausible':
      if (detail === 'still') return `In ${frames} the vectors say that things move which stand still.`;
      return `In ${frames} the vectors do not lead to where things were, as they do in the other frames.`;
    case 'sum-mismatch':
      return `In ${frames} the light passes do not sum to the beauty: ${detail}.`;
    case 'loop-repeat':
      return `The last frame shows the first again: the turn is one frame too long.`;
    case 'loop-jump':
      return `The last frame does not lead on to the first, and the shot is ordered as a loop.`;
    case 'still-writing':
      return `${files} ${one ? 'was' : 'were'} being written a moment ago. Count again when ${one ? 'it is' : 'they are'} done.`;
    default:
      return soundnessMessage(facts);
  }
}

function depthMessage(frames: string, detail: string): string {
  switch (detail) {
    case '':
      return `${frames} with a depth of zero or less, or without a number, where the picture covers.`;
    case 'nothing':
      return `In ${frames} the depth says that nothing is there where the picture has something.`;
    case 'scale':
      return `In ${frames} the distances are all many times those of the frames around, or parts of them.`;
    case 'flat':
      return `In ${frames} the depth is one distance all over, while the surfaces turn.`;
    default:
      return `The depth is ${detail}.`;
  }
}

function soundnessMessage(facts: MessageFacts): string {
  const first = facts.evidence[0]!;
  if (facts.files.length <= 1) return first?.message ?? 'The file is not sound.';
  const messages = new Set(facts.evidence.map((entry) => entry.message));
  const lead = `${counted(facts.files.length, 'file')}.`;
  if (messages.size === 1) return `${lead} ${first.message}`;
  return `${lead} The first: ${first.message}`;
}
