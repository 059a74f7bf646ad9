import { addStamp, type Stamp } from '@mint-tally/store';
import { actor, services } from './services';
import { loadShotState } from './shot-state';

/**
 * Signs a version off, or sends it back, for the frames as they were counted.
 *
 * @returns which field stands against it, and why; null when it was saved
 */
export async function stampVersion(shotId: number, stamp: Omit<Stamp, 'id' | 'createdAt'>): Promise<{ field: 'person' | 'note'; message: string } | null> {
  if (stamp.kind === 'sent-back' && stamp.note.length < 3) return { field: 'note', message: 'Say what is to be done: it goes to whoever made it.' };
  const { database } = services();
  const state = await loadShotState(database, shotId);
  // What is signed is what was looked at: not what has come since.
  if (state.count?.content !== stamp.content) return { field: 'person', message: 'The frames have changed since you looked. Look again.' };
  if (stamp.kind === 'signed' && !state.ready) return { field: 'person', message: state.refusal };
  await database.transaction((inside) => addStamp(inside, shotId, stamp, actor));
  return null;
}
