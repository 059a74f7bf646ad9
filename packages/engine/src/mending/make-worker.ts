import type { MendStep } from '@mint-tally/core';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { makeFrame } from './make-frame.ts';

/** What a thread is asked to make. */
export interface MakeOrder {
  /** Real path of the shot's folder. */
  readonly folder: string;
  readonly step: MendStep;
}

/** What a thread answers. */
export type MakeAnswer = { readonly bytes: Uint8Array } | ToldError;

/** Makes a file by a step's recipe in a thread of its own. */
export default async function make({ folder, step }: MakeOrder): Promise<MakeAnswer> {
  try {
    return { bytes: (await makeFrame(folder, step)).bytes };
  } catch (thrown) {
    return tellError(thrown);
  }
}
