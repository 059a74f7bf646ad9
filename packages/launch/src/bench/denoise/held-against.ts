import { execFile } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { memorySource, pictureToDenoise, recogniseFormat, USUAL_CONVENTION, type PictureToDenoise } from '@mint-tally/core';
import { codecTools, projectFolder } from '@mint-tally/engine';
import { passFile } from '../feature-passes.ts';

/** A file's picture. */
export function decode(file: string) {
  const source = memorySource(readFileSync(file));
  return { frame: recogniseFormat(source, file).open(source).decode(codecTools).frame, channels: null };
}

/** A frame's picture, or another in its stead, with what helps. */
export function pictureAt(folder: string, place: number, beauty = passFile(folder, 'beauty', place)): PictureToDenoise {
  const pass = (name: string) => decode(passFile(folder, name, place));
  return pictureToDenoise(
    { colour: decode(beauty), albedo: pass('albedo'), normal: pass('normal'), depth: pass('depth'), motion: pass('motion') },
    USUAL_CONVENTION,
  )!;
}

/** Runs `./mint denoise` on a shot with a brief of its own. @returns what it prints */
export async function denoiseInto<Printed>(folder: string, brief: object, pass: string, out: string, ...words: readonly string[]): Promise<Printed> {
  const [file, command] = [path.join(folder, 'brief.json'), path.join(projectFolder(), 'build', 'services', 'denoise.js')];
  writeFileSync(file, JSON.stringify(brief));
  rmSync(out, { recursive: true, force: true });
  const { stdout } = await promisify(execFile)(process.execPath, [command, folder, ...['--brief', file, '--pass', pass, '--out', out, '--json'], ...words]);
  return JSON.parse(stdout) as Printed;
}

/** Peak signal to noise of pictures as they are displayed: sRGB (IEC 61966-2-1), black and white at 0 and 1. */
export function psnr({ colours }: Pick<PictureToDenoise, 'colours'>, truth: Pick<PictureToDenoise, 'colours' | 'width' | 'height'>): number {
  let sum = 0;
  colours.forEach((plane, c) => plane.forEach((value, i) => (sum += (displayed(value) - displayed(truth.colours[c]![i]!)) ** 2)));
  return -10 * Math.log10(sum / (colours.length * truth.width * truth.height));
}

function displayed(value: number): number {
  const clipped = Math.min(1, Math.max(0, value));
  return clipped <= 0.0031308 ? 12.92 * clipped : 1.055 * clipped ** (1 / 2.4) - 0.055;
}

/** A gain, with its sign. */
export const signed = (value: number) => `${value < 0 ? '' : '+'}${value.toFixed(1)}`;
