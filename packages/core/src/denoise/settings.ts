import { MintError } from '../errors.ts';

/** Strengths by name; the numbers in between, and some beyond, can be asked for as well. */
export const strengths = { light: 0.5, middle: 1, strong: 2 } as const;
export type StrengthName = keyof typeof strengths;
/** Less does nothing, more has no meaning. */
export const STRENGTHS = { least: 0.1, most: 8 } as const;

/** Frames that take part in one: itself alone, or with as many before as after it. */
export const frameCounts = [1, 3, 5, 7] as const;
export type FrameCount = (typeof frameCounts)[number];

/** Raised when a strength, or a number of frames, is none. */
export class DenoiseSettingError extends MintError {
  constructor(message: string, remedy: string) {
    super('denoise-setting', message, { remedy });
  }
}

/** A strength that was written by a person. @throws DenoiseSettingError */
export function parseStrength(text: string): number {
  if (text in strengths) return strengths[text as StrengthName];
  const value = Number(text);
  if (text.trim() === '' || !(value >= STRENGTHS.least && value <= STRENGTHS.most))
    throw new DenoiseSettingError(
      `“${text}” is no strength.`,
      `Say ${Object.keys(strengths).join(', ')}, or a number from ${STRENGTHS.least} to ${STRENGTHS.most}; middle is 1.`,
    );
  return value;
}

/** A number of frames that was written by a person. @throws DenoiseSettingError */
export function parseFrameCount(text: string): FrameCount {
  const found = frameCounts.find((count) => String(count) === text.trim());
  if (!found) throw new DenoiseSettingError(`“${text}” frames cannot be steadied over.`, `Say ${frameCounts.join(', ')}.`);
  return found;
}

/** Settings in words, as they are written into the files. */
export function sayDenoising(strength: number, frames: FrameCount): string {
  const named = Object.entries(strengths).find(([, value]) => value === strength)?.[0];
  return `strength ${named ? `${named} (${strength})` : strength}, ${frames === 1 ? 'each frame by itself' : `steadied over ${frames} frames`}`;
}
