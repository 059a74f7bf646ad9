import { describeChanges, type Changes } from '../tally/index.ts';
import { isMeasured, type Gate } from './gates.ts';

/**
 * Says why a shot cannot be handed over: which gates are open and what holds each, and what has changed since the count
 * before, which is what opens a gate again that a person had closed. The page and a package that was refused say it in
 * these words.
 *
 * @param changes since the count before; null for a first count
 * @returns empty when every gate lets the shot through
 */
export function explainRefusal(gates: readonly Gate[], changes: Changes | null): string {
  const open = gates.filter(({ state }) => state === 'open');
  const unclosed = gates.filter(({ state }) => state === 'unmeasured');
  if (open.length + unclosed.length === 0) return '';
  const sentences: string[] = [];
  const changed = changes === null ? '' : describeChanges(changes);
  if (changed !== '') sentences.push(`Since the count before: ${changed}.`);
  if (open.length > 0) {
    const held = open.map(({ name, blockers, unwatched }) =>
      name === 'eyes'
        ? `eyes (${unwatched.toLocaleString('en')} ${unwatched === 1 ? 'frame is' : 'frames are'} still to be watched)`
        : `${name} (${blockers.toLocaleString('en')} ${blockers === 1 ? 'finding stops' : 'findings stop'} it)`,
    );
    sentences.push(`Open: ${held.join(', ')}.`);
  }
  const byHand = unclosed.filter(({ name }) => !isMeasured(name)).map(({ name }) => name);
  if (byHand.length > 0) sentences.push(`To be closed by a person, for the frames as they are now: ${byHand.join(', ')}.`);
  if (byHand.length < unclosed.length) sentences.push('The shot is still to be counted.');
  return sentences.join(' ');
}
