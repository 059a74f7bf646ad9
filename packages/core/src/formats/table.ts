import { dpx } from './dpx/index.ts';
import { exr } from './exr/index.ts';
import type { FrameFormat } from './frame.ts';
import { jpeg } from './jpeg/index.ts';
import { png } from './png/index.ts';
import { tga } from './tga/index.ts';
import { tiff } from './tiff/index.ts';

/** The formats that are looked into. Nothing else in the code names a format to choose one. */
export const frameFormats: readonly FrameFormat[] = [png, exr, tiff, jpeg, tga, dpx];
