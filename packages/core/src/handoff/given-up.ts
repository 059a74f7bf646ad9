import { findingCodes, isFindingCode } from '../tally/index.ts';
import type { WaiverSubject } from './waivers.ts';

/**
 * What somebody gives up who waives this, in words; null when no ordered frame is given up by it. Of
 * the count family alone: other findings leave a frame that is there.
 *
 * @param blocks whether the finding blocks a handoff; a brief may say so of any code
 */
export function givenUpBy(subject: WaiverSubject, blocks: boolean): string | null {
  if (subject.kind !== 'finding' || !isFindingCode(subject.code) || !blocks) return null;
  const { family, title } = findingCodes[subject.code];
  if (family !== 'count') return null;
  const count = subject.frames.isEmpty ? subject.files.length : subject.frames.size;
  const frames = `${count.toLocaleString('en')} ordered ${count === 1 ? 'frame' : 'frames'}`;
  const [of, has] = [subject.pass === null ? '' : ` of ${subject.pass}`, count === 1 ? 'has' : 'have'];
  switch (subject.code) {
    case 'missing-frame':
      return `${frames}${of} ${has} no file: ${subject.frames}.`;
    case 'missing-pass':
      return `The pass ${subject.pass} is not there at all: ${frames} ${has} no file.`;
    case 'coming-frame':
      return `${frames}${of} ${count === 1 ? 'is' : 'are'} still being rendered: ${subject.frames}.`;
    case 'duplicate-number':
      return `${frames}${of} ${has} two files, and nobody has decided which: ${subject.frames}.`;
    default:
      return `${title}${of}: ${subject.frames.isEmpty ? `${count} files` : subject.frames}.`;
  }
}
