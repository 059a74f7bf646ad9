import { realpathSync } from 'node:fs';
import path from 'node:path';
import {
  describeError,
  formatFrameRange,
  FrameSet,
  lightsBeside,
  MintError,
  parseFrameCount,
  parseFrameRange,
  parseStrength,
  type Brief,
} from '@mint-tally/core';
import { accessError } from '@mint-tally/disk';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { UsageError, wordsOf } from '../check/words.ts';
import { denoiseFolder, type DenoisedWith, type Denoising } from './denoise-folder.ts';
import { meanKnown } from './mean-known.ts';

export const DENOISE_USAGE =
  'Usage: ./mint denoise FOLDER --brief FILE.json --pass NAME --out FOLDER [--strength light|middle|strong|NUMBER] [--frames 1|3|5|7] [--with-lights] [--range R] [--json]';

const wrong = (message: string) => new UsageError(message, DENOISE_USAGE);

/** Runs `./mint denoise` with no database and no server. Never throws: what fails becomes status 2. */
export async function runDenoise(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  try {
    const { json, ...options } = parseDenoiseArguments(argv);
    const done = await denoiseFolder({ ...options, now: Date.now(), onProgress: (phase, count, total) => onProgress(`${phase}: ${count} of ${total} frames`) });
    if (!done || done.isStopped) throw new MintError('stopped', 'It was stopped.');
    const isWhole = [done, ...done.lights].every(({ missing }) => missing.isEmpty) && done.frames.every(({ file }) => file !== null);
    return { status: isWhole ? 0 : 1, output: json ? JSON.stringify(denoiseObject(done)) : denoiseText(done, options.out), error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint denoise: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  }
}

function parseDenoiseArguments(argv: readonly string[]) {
  const text = { type: 'string' } as const;
  const { folder, values } = wordsOf(
    argv,
    {
      brief: text,
      pass: text,
      out: text,
      strength: text,
      frames: text,
      range: text,
      'with-lights': { type: 'boolean', default: false },
      json: { type: 'boolean', default: false },
    },
    DENOISE_USAGE,
  );
  const { brief, pass, out } = values;
  if (brief === undefined) throw wrong('No brief was named.');
  if (pass === undefined) throw wrong('No pass was named.');
  if (out === undefined) throw wrong('No folder to write into was named.');
  const [read, where] = [readBrief(brief), whereTo(out)];
  return {
    folder: folderNamed(folder),
    brief: read,
    pass,
    ...where,
    lights: values['with-lights'] ? lightsOf(read, pass).map((light) => ({ pass: light, out: `${where.out}/${light}` })) : [],
    strength: parseStrength(values.strength ?? 'middle'),
    frames: parseFrameCount(values.frames ?? '5'),
    range: values.range === undefined ? null : parseFrameRange(values.range),
    json: values.json,
  };
}

/** The lights that a pass is put together from; each goes into a folder of its own. @throws UsageError where there are none */
function lightsOf({ passes }: Brief, name: string): string[] {
  const pass = passes.find((one) => one.name === name);
  const lights = pass ? lightsBeside(passes, pass).map((light) => light.name) : [];
  // A pass that is not ordered is told as that.
  if (pass && lights.length === 0) throw wrong(pass.role === 'beauty' ? 'The brief orders no lights.' : `${name} is no beauty: no lights go along with it.`);
  return lights;
}

/** Where is written: the folder above has to be there, the last one is made. */
function whereTo(out: string): { readonly limit: string; readonly out: string } {
  const whole = path.resolve(out);
  const above = path.dirname(whole);
  try {
    return { limit: realpathSync(above), out: path.basename(whole) };
  } catch (thrown) {
    throw new MintError('not-a-folder', accessError(thrown, above).message, { subject: above, remedy: 'Make it first.' });
  }
}

/** The one object that `./mint denoise --json` prints; scripts rely on its shape. */
function denoiseObject({ frames, kept, missing, lights, lacking }: Denoising) {
  const written = frames.filter(({ file }) => file !== null);
  return {
    written: written.length,
    frames: written.map(({ frame, noiseBefore, noise, temporalBefore, temporalNoise, seconds, companions, fireflies, holes }) => ({
      frame,
      noiseBefore,
      noiseAfter: noise,
      temporalBefore,
      temporalAfter: temporalNoise,
      seconds,
      companions,
      fireflies,
      notNumbers: holes,
    })),
    kept: formatFrameRange(kept),
    missing: formatFrameRange(missing),
    unreadable: formatFrameRange(unreadable(frames)),
    lights: lights.map(({ pass, missing }) => ({ pass, missing: formatFrameRange(missing) })),
    lacking,
  };
}

const unreadable = (frames: readonly DenoisedWith[]) => FrameSet.of(frames.filter(({ file }) => file === null).map(({ frame }) => frame));

function denoiseText({ frames, kept, missing, lights, lacking }: Denoising, out: string): string {
  const written = frames.filter(({ file }) => file !== null);
  const say = (value: number | null) => (value === null ? 'not known' : value.toPrecision(3));
  return [
    `${written.length} ${written.length === 1 ? 'frame' : 'frames'} written to ${out}.`,
    ...(kept.size > 0 ? [`There already, by the same settings: ${formatFrameRange(kept)}.`] : []),
    ...(written.length > 0
      ? [
          `Noise ${say(meanKnown(written.map(({ noiseBefore }) => noiseBefore)))} before, ${say(meanKnown(written.map(({ noise }) => noise)))} after.`,
          `In time ${say(meanKnown(written.map(({ temporalBefore }) => temporalBefore)))} before, ${say(meanKnown(written.map(({ temporalNoise }) => temporalNoise)))} after.`,
        ]
      : []),
    ...(missing.size > 0 ? [`Not there: ${formatFrameRange(missing)}.`] : []),
    ...(unreadable(frames).size > 0 ? [`Not readable: ${formatFrameRange(unreadable(frames))}.`] : []),
    ...(lights.length > 0 ? [`Along with it, in folders of their own there: ${lights.map(({ pass }) => pass).join(', ')}.`] : []),
    ...lights.flatMap(({ pass, missing }) =>
      missing.isEmpty ? [] : [`Without ${pass}, which is not there, not readable or of another size: ${formatFrameRange(missing)}.`],
    ),
    ...(lacking.length > 0 ? [`Would help, and is not there: ${lacking.join(', ')}.`] : []),
  ].join('\n');
}
