import { exr } from './exr/index.ts';
import type { FrameFormat } from './frame.ts';
import { png } from './png/index.ts';

/** The formats that are looked into. Nothing else in the code names a format to choose one. */
export const frameFormats: readonly FrameFormat[] = [png, exr];
