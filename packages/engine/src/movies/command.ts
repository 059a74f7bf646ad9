import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, realpathSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import {
  codecsOfExtension,
  describeError,
  movieSettingsSchema,
  planMovie,
  parseFrameRange,
  sayBytes,
  workOutOrder,
  type MovieSettings,
} from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { colourNamed, joinNegative, sayIssue, targetOutside, UsageError, wordsOf } from '../check/words.ts';
import { makeMovie, type MadeMovie } from './make-movie.ts';
import { filesOfPass, passNamed } from '../drawing/shown-sequence.ts';

export const MOVIE_USAGE =
  'Usage: ./mint movie FOLDER --brief FILE.json --pass NAME --out FILE.mp4|.webm|.mov|.gif|.webp [--quality N | --bitrate 20M] [--size WxH] [--view srgb|rec709|linear] [--exposure STOPS] [--background COLOUR] [--burn-in] [--sound FILE.wav] [--codec h264|hevc|vp9|av1|prores] [--range R] [--note TEXT] [--keys all] [--beside FOLDER | --split FOLDER] [--json]';

const wrong = (message: string) => new UsageError(message, MOVIE_USAGE);

/** Runs `./mint movie` with no database and no server. Never throws: what fails becomes status 2. */
export async function runMovie(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  try {
    const wanted = readWords(argv);
    const { json, out } = wanted;
    const made = await make(wanted, onProgress);
    const { frames, fps, seconds, slates, bytes } = made;
    return { status: 0, output: json ? JSON.stringify({ file: out, frames, fps, seconds, slates, bytes }, null, 2) : sayMovie(out, made), error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint movie: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  }
}

type Wanted = ReturnType<typeof readWords>;

async function make({ folder, brief, pass, range, settings, sound, otherFolder, out }: Wanted, onProgress: (text: string) => void): Promise<MadeMovie> {
  const order = workOutOrder(brief);
  const passIndex = passNamed(order, pass);
  const shown = { folder, order, passIndex };
  const other = otherFolder === null ? null : { folder: otherFolder, order, passIndex };
  const plan = planMovie(
    order,
    passIndex,
    range,
    await filesOfPass(folder, order, passIndex),
    other ? await filesOfPass(other.folder, order, passIndex) : undefined,
  );
  if (!existsSync(path.dirname(out))) mkdirSync(path.dirname(out), { recursive: true });
  const parent = HeldFolder.open(path.dirname(out), '');
  try {
    const made = await makeMovie({
      ...{ shown, other, plan, settings, sound, parent, name: path.basename(out), aside: `0-${randomBytes(4).toString('hex')}` },
      ...{ threads: os.availableParallelism(), stopped: () => false },
      onProgress: ({ done, total, bytes }) => onProgress(`picture ${done} of ${total}${bytes === null ? '' : `, about ${sayBytes(bytes)}`}`),
    });
    return made!;
  } finally {
    parent.close();
  }
}

function sayMovie(file: string, { frames, fps, seconds, slates, bytes, width, height, foretold, differences }: MadeMovie): string {
  return [
    `${file}: ${frames} ${frames === 1 ? 'frame' : 'frames'} at ${fps}, ${seconds.toFixed(3)} s, ${width} x ${height}, ${sayBytes(bytes)}${foretold === null ? '' : ` (${sayBytes(foretold)} were foretold)`}.`,
    slates === '' ? 'Every frame is there.' : `Slates stand for ${slates}.`,
    `Read back: count, rate, length and colour tags are as they should be; the first picture and the last lie ${differences.map((one) => one.toFixed(2)).join(' and ')} of 255 levels from what was fed.`,
  ].join('\n');
}

/** @throws MintError */
function readWords(argv: readonly string[]) {
  const [text, flag] = [{ type: 'string' } as const, { type: 'boolean', default: false } as const];
  const { folder: named, values } = wordsOf(
    joinNegative(argv, '--exposure'),
    {
      ...{ brief: text, pass: text, out: text, quality: text, bitrate: text, size: text, view: text, exposure: text, background: text, sound: text },
      ...{ 'burn-in': flag, codec: text, range: text, note: text, keys: text, beside: text, split: text, json: flag },
    },
    MOVIE_USAGE,
  );
  if (values.brief === undefined) throw wrong('No brief was named.');
  if (values.pass === undefined) throw wrong('No pass was named.');
  if (values.out === undefined) throw wrong('It was not said where the movie is written: --out.');
  if (values.beside !== undefined && values.split !== undefined) throw wrong('Another sequence stands beside, or in the other half: not both.');
  if (values.keys !== undefined && values.keys !== 'all') throw wrong('--keys takes all: every frame by itself.');
  const folder = folderNamed(named);
  const other = values.beside ?? values.split;
  return {
    ...{
      folder,
      brief: readBrief(values.brief),
      pass: values.pass,
      json: values.json,
      range: values.range === undefined ? null : parseFrameRange(values.range),
    },
    out: targetOutside(folder, values.out, 'movie'),
    settings: settingsOf(values),
    sound: values.sound === undefined ? null : soundNamed(values.sound),
    otherFolder: other === undefined ? null : folderNamed(other),
  };
}

type Said = Partial<Record<'out' | 'quality' | 'bitrate' | 'size' | 'view' | 'exposure' | 'background' | 'codec' | 'note' | 'keys' | 'split', string>> & {
  readonly 'burn-in': boolean;
};

function settingsOf(said: Said): MovieSettings {
  const codecs = codecsOfExtension[path.extname(said.out!).slice(1).toLowerCase()];
  if (!codecs) throw wrong(`${said.out!} is no .mp4, .webm, .mov, .gif or .webp.`);
  if (said.codec !== undefined && !(codecs as readonly string[]).includes(said.codec))
    throw wrong(`A ${path.extname(said.out!)} holds ${codecs.join(' or ')}, not ${said.codec}.`);
  if (said.quality !== undefined && said.bitrate !== undefined) throw wrong('A quality or a rate of bits: not both.');
  if (said.bitrate !== undefined && (codecs[0] === 'prores' || codecs[0] === 'gif' || codecs[0] === 'webp') && (said.codec ?? codecs[0]) === codecs[0])
    throw wrong(`${codecs[0]} knows no rate of bits: choose a quality.`);
  const size = said.size === undefined ? undefined : /^(\d+)x(\d+)$/i.exec(said.size.trim());
  if (size === null) throw wrong(`${said.size!} is no size; write 1920x1080.`);
  const background = colourNamed(said.background, MOVIE_USAGE);
  const settings = movieSettingsSchema.safeParse({
    codec: said.codec ?? codecs[0],
    ...(said.quality === undefined ? {} : { quality: Number(said.quality) }),
    ...(said.bitrate === undefined ? {} : { bitrate: bitsOf(said.bitrate) }),
    ...(size ? { size: [Number(size[1]), Number(size[2])] } : {}),
    ...(said.view === undefined ? {} : { view: said.view }),
    ...(said.exposure === undefined ? {} : { exposure: Number(said.exposure) }),
    ...{
      background,
      burnIn: said['burn-in'],
      note: said.note ?? '',
      everyFrameKey: said.keys === 'all',
      arrange: said.split === undefined ? 'beside' : 'split',
    },
  });
  if (settings.success) return settings.data;
  throw wrong(sayIssue(settings.error));
}

function bitsOf(text: string): number {
  const match = /^(\d+(?:\.\d+)?)\s*([kM]?)$/.exec(text.trim());
  if (!match) throw wrong(`${text} is no rate of bits; write 20M or 800k.`);
  return Math.round(Number(match[1]) * ({ k: 1e3, M: 1e6 }[match[2]!] ?? 1));
}

function soundNamed(file: string): string {
  if (!existsSync(file)) throw wrong(`${file} is not there.`);
  return realpathSync(file);
}
