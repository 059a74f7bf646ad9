import type { FindingCode } from './codes.ts';
import type { MessageFacts } from './findings.ts';

/** The sentence of a finding: what is wrong, with the numbers that show it. */
export function writeMessage(code: FindingCode, facts: MessageFacts): string {
  const frames = counted(facts.frames.size, 'frame');
  const files = counted(facts.files.length, 'file');
  const one = facts.files.length === 1;
  const { detail } = facts;
  switch (code) {
    case 'missing-frame':
      return `${frames} ${facts.frames.size === 1 ? 'has' : 'have'} no file.`;
    case 'coming-frame':
      return `${frames} ${facts.frames.size === 1 ? 'is' : 'are'} being rendered, or wait${facts.frames.size === 1 ? 's' : ''} to be.`;
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
      return `${files}: ${detail}.`;
    case 'still-writing':
      return `${files} ${one ? 'was' : 'were'} being written a moment ago. Count again when ${one ? 'it is' : 'they are'} done.`;
    default:
      return soundnessMessage(facts);
  }
}

function soundnessMessage(facts: MessageFacts): string {
  const [first] = facts.evidence;
  if (facts.files.length <= 1) return first?.message ?? 'The file is not sound.';
  const messages = new Set(facts.evidence.map((entry) => entry.message));
  const lead = `${counted(facts.files.length, 'file')}.`;
  if (messages.size === 1) return `${lead} ${first.message}`;
  return `${lead} The first: ${first.message}`;
}

function counted(count: number, noun: string): string {
  return `${count.toLocaleString('en')} ${noun}${count === 1 ? '' : 's'}`;
}
