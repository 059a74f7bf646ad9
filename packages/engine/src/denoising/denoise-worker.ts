import { denoiseStretch, type DenoisedFrame, type DenoiseTask } from './denoise-stretch.ts';

/** Denoises a stretch of frames in a thread of its own. */
export default function denoise(task: DenoiseTask): Promise<DenoisedFrame[]> {
  return denoiseStretch(task);
}
