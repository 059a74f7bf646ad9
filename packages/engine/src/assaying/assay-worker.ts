import { measureStretch, type StretchResults, type StretchTask } from './measure-stretch.ts';

/** Measures a stretch of frames in a thread of its own. */
export default function assay(task: StretchTask): Promise<StretchResults> {
  return measureStretch(task);
}
