import { tellError, type ToldError } from '../threads/told-error.ts';
import { denoiseStretch, type DenoisedFrame, type DenoiseTask } from './denoise-stretch.ts';

/** What a thread answers. */
export type DenoiseAnswer = { readonly frames: DenoisedFrame[] } | ToldError;

/** Denoises a stretch of frames in a thread of its own. */
export default async function denoise(task: DenoiseTask): Promise<DenoiseAnswer> {
  try {
    return { frames: await denoiseStretch(task) };
  } catch (thrown) {
    return tellError(thrown);
  }
}
