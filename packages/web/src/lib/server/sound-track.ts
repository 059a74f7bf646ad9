import { MintError, sayBytes } from '@mint-tally/core';
import { findRoot, resolveInside, withFile } from '@mint-tally/engine';
import { findShot } from '@mint-tally/store';
import { needBrief } from './frames';
import { services } from './services';

/** A longer track is not sent in one piece: an hour of two channels and 24 bits at 48 kHz. */
const MOST_BYTES = 2 ** 30;

/** The bytes of the sound track that the brief names. @throws MintError when there is none, or it cannot be read */
export async function readSoundTrack(shotId: number): Promise<Uint8Array<ArrayBuffer>> {
  const { database, config } = services();
  const [{ brief }, shot] = await Promise.all([needBrief(shotId), findShot(database, shotId)]);
  if (!brief.sound || !shot) throw new MintError('not-found', 'The brief names no sound.');
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const { file } = brief.sound;
  return withFile(folder, file, (source) => {
    if (source.size > MOST_BYTES) throw new MintError('too-large', `${file} has ${sayBytes(source.size)}, too much to be played here.`, { subject: file });
    return new Uint8Array(source.read(0, source.size));
  });
}
