import path from 'node:path';
import { DENOISED_NOTE } from '@mint-tally/core';
import type { FramePlan } from '../assaying/plan.ts';
import type { FileToWrite } from './finish-one.ts';

/** A pass, and where it is written, below some folder. One that lives in another's files stays in them. */
export interface PassPlace {
  readonly pass: string;
  readonly out: string;
  /** Like the original where it is not said. */
  readonly nameOf?: (frame: number) => string;
}

/** What a frame's file of a pass is called. */
export const nameIn = ({ frame, colours }: FramePlan, { pass, nameOf }: Pick<PassPlace, 'pass' | 'nameOf'>) =>
  nameOf?.(frame) ?? path.posix.basename(colours[pass]!.path);

/** What a file's header says of how it was made. */
export const notesOf = (settings: string, passes: readonly string[]) => ({ [DENOISED_NOTE]: settings, denoisedFrom: passes.join(', ') });

/** The files of a frame: one for each of its originals, however many passes live in it. */
export function filesToWrite(plan: FramePlan, whole: PassPlace, lights: readonly PassPlace[], settings: string): FileToWrite[] {
  const files = new Map<string, Omit<FileToWrite, 'notes'>>();
  for (const place of [whole, ...lights]) {
    const source = plan.colours[place.pass]?.path;
    if (source === undefined) continue;
    const file = files.get(source);
    files.set(source, file ? { ...file, passes: [...file.passes, place.pass] } : { passes: [place.pass], source, out: place.out, name: nameIn(plan, place) });
  }
  // What a light becomes by another's weights is something else than by its own.
  const says = (passes: readonly string[]) => {
    const along = passes.filter((one) => one !== whole.pass).join(', ');
    return along === '' ? settings : passes.includes(whole.pass) ? `${settings}, with ${along}` : `${settings}, by the weights of ${whole.pass}`;
  };
  return [...files.values()].map((file) => ({ ...file, notes: notesOf(says(file.passes), file.passes) }));
}
