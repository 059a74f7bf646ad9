import { mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import path from 'node:path';
import { cropFrame, luminanceOf, memorySource, MintError, notesOf, recogniseFormat, type DecodedFrame, type Rectangle, type Reference } from '@mint-tally/core';
import type { Config } from '../config/config.ts';
import { codecTools } from '../inspection/codec-tools.ts';
import { withFile } from '../inspection/inspect-file.ts';

/** Below the data folder: of each shot the best test renders that were made of it, by frame. */
export const referencesFolder = ({ dataFolder }: Pick<Config, 'dataFolder'>) => path.join(dataFolder, 'references');

const NAME = /^(-?\d+)-(\d+)\.[a-z0-9]+$/;

/** Keeps the best test render of a frame; one with fewer samples makes room for it, one with more stays. */
export function keepReference(config: Pick<Config, 'dataFolder'>, shotId: number, frame: number, samples: number, file: string): void {
  const folder = path.join(referencesFolder(config), String(shotId));
  mkdirSync(folder, { recursive: true });
  const others = readdirSync(folder).filter((name) => NAME.exec(name)?.[1] === String(frame));
  if (others.some((name) => Number(NAME.exec(name)![2]) > samples)) return;
  for (const name of others) rmSync(path.join(folder, name));
  renameSync(file, path.join(folder, `${frame}-${samples}${path.extname(file).toLowerCase()}`));
}

/** Files of the best test renders of a shot, by frame. */
export function findReferences(config: Pick<Config, 'dataFolder'>, shotId: number): ReadonlyMap<number, string> {
  const folder = path.join(referencesFolder(config), String(shotId));
  let names: string[];
  try {
    names = readdirSync(folder);
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return new Map();
    throw thrown;
  }
  return new Map(names.flatMap((name) => (NAME.test(name) ? [[Number(NAME.exec(name)![1]), path.join(folder, name)] as const] : [])));
}

/** Fewer times the samples of the frame do not make a better render of it. */
const TIMES_BETTER = 2;

/** A better render of a frame, or of a part of it; null where it is of another size, hardly better, or cannot be read. */
export function readReference(file: string, frame: DecodedFrame, part: Rectangle | null): Reference | null {
  const samplesOf = ({ header }: DecodedFrame) => Number(notesOf(header.metadata).get('samples'));
  const best = decodedAt(file);
  if (!best) return null;
  const [own, more] = [samplesOf(frame), samplesOf(best)];
  const [first, second] = [frame.planes[0]!, best.planes[0]!];
  const [left, top] = part ?? [0, 0];
  const isSame = part
    ? second.width >= left + first.width && second.height >= top + first.height
    : second.width === first.width && second.height === first.height;
  const luminance = isSame && more >= TIMES_BETTER * own ? luminanceOf(part ? cropFrame(best, part) : best) : null;
  return luminance && luminance.values.length === first.width * first.height ? { luminance: luminance.values, noise: Math.sqrt(own / more) } : null;
}

function decodedAt(file: string): DecodedFrame | null {
  try {
    return withFile(path.dirname(file), path.basename(file), (source) => {
      const held = memorySource(source.read(0, source.size));
      return recogniseFormat(held, file).open(held).decode(codecTools).frame;
    });
  } catch (thrown) {
    // Whatever cannot be read is no reference; the test goes on against the original.
    if (thrown instanceof MintError) return null;
    throw thrown;
  }
}
