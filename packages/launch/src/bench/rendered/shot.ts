import { execFile } from 'node:child_process';
import { existsSync, readFileSync, renameSync } from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { memorySource, parseBrief, recogniseFormat, type Brief } from '@mint-tally/core';
import { codecTools, servicesFolder } from '@mint-tally/engine';
import { FEATURE_PASSES, featureBrief, passFile } from '../feature-passes.ts';

/** A rendered shot: how many frames there are, and how large they are. */
export const FRAMES = 8;
export const SIZE = { width: 1920, height: 1080 } as const;

/**
 * A shot that the stand-in farm renders, once a run: half a minute on two processors. What is rendered has noise in every
 * pixel, and vectors, normals and depths without a pattern; it packs worse than what is made up, and takes longer to unpack.
 * The OpenEXR library writes its files anew, where oiiotool is there.
 */
export async function renderShot(top: string): Promise<string> {
  const folder = path.join(top, 'rendered');
  if (existsSync(folder)) return folder;
  const places = Array.from({ length: FRAMES }, (_, i) => i);
  await Promise.all([0, 1].map((turn) => promisify(execFile)('node', framesCommand(folder, places, turn))));
  for (const pass of FEATURE_PASSES) for (const place of places) await rewrite(passFile(folder, pass, place));
  return folder;
}

const framesCommand = (folder: string, places: readonly number[], turn: number) => [
  path.join(servicesFolder(), 'bench-frames.js'),
  folder,
  ...places.filter((place) => place % 2 === turn).map(String),
];

async function rewrite(file: string): Promise<void> {
  const written = `${file}.new.exr`;
  try {
    await promisify(execFile)('oiiotool', [file, '--compression', 'zip', '-o', written]);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return;
    throw error;
  }
  renameSync(written, file);
}

/** The brief of its first frames. */
export const renderedBrief = (count: number): Brief => parseBrief(featureBrief(count));

/** Decodes all files of its first frames, one after the other. */
export function decodeShot(folder: string, count: number): void {
  for (const pass of FEATURE_PASSES) {
    for (let place = 0; place < count; place++) {
      const source = memorySource(readFileSync(passFile(folder, pass, place)));
      recogniseFormat(source, 'frame.exr').open(source).decode(codecTools);
    }
  }
}
