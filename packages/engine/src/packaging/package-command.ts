import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, realpathSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import {
  acceptFinding,
  describeError,
  framePath,
  MintError,
  narrowBrief,
  parseBrief,
  parseFrameRange,
  sayBytes,
  splitIntoVolumes,
  workOutOrder,
  type Brief,
  type FrameSet,
  type Order,
  type Tally,
} from '@mint-tally/core';
import { HeldFolder, isInside } from '@mint-tally/disk';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { checkObject, checkText } from '../check/report.ts';
import { countFolder, type CountedFile } from '../counting/count-folder.ts';
import { InspectionPool } from '../inspection/pool.ts';
import { packageDocuments } from './documents.ts';
import { writeBag } from './write-bag.ts';

export const PACKAGE_USAGE =
  'Usage: ./mint package FOLDER --brief FILE.json --out FOLDER [--passes A,B] [--range R] [--volume-size 4GB] [--waive "NAME: REASON"] [--json]';

class UsageError extends MintError {
  constructor(message: string) {
    super('usage', message, { remedy: PACKAGE_USAGE });
  }
}

interface Wanted {
  readonly folder: string;
  /** What is handed over: of the brief the passes and frames that were named. */
  readonly brief: Brief;
  /** Real path of the folder that the package is made in, and its name there. */
  readonly parent: string;
  readonly name: string;
  /** Bytes of a volume at most; null for one package of all. */
  readonly volumeSize: number | null;
  readonly waive: { readonly person: string; readonly reason: string } | null;
  readonly json: boolean;
}

/** Runs `./mint package` with no database and no server. Never throws: what fails becomes status 2; what is not ready, 1. */
export async function runPackage(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  const pool = new InspectionPool(os.availableParallelism());
  try {
    const wanted = parsePackageArguments(argv);
    const { folder, brief, json, waive } = wanted;
    const { tally, counted } = await countFolder({
      ...{ folder, brief, level: 'full', pool, proxyFolder: null, now: Date.now() },
      onProgress: ({ done, total }) => onProgress(`counting: ${done} of ${total} files`),
    });
    if (!tally.ready && !waive)
      return { status: 1, output: json ? JSON.stringify(checkObject(tally), null, 2) : `${checkText(tally)}\nNothing was written.`, error: '' };
    const written = await write(wanted, tally, counted!, onProgress);
    return { status: 0, output: json ? JSON.stringify(written, null, 2) : written.said, error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint package: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  } finally {
    await pool.close();
  }
}

async function write(
  { folder, brief, parent, name, volumeSize, waive }: Wanted,
  tally: Tally,
  counted: readonly CountedFile[],
  onProgress: (text: string) => void,
) {
  const order = workOutOrder(brief);
  const ordered = namesOf(order);
  const sizes = new Map(counted.map((file) => [file.path, file.size]));
  const parts: (FrameSet | null)[] = volumeSize === null ? [null] : splitIntoVolumes(order, (file) => sizes.get(file) ?? 0, volumeSize);
  const isSplit = parts.length > 1;
  const at = new Date();
  const waivers = waive
    ? tally.findings.filter(({ severity }) => severity === 'blocker').map((finding) => ({ subject: acceptFinding(finding), ...waive, at: at.toISOString() }))
    : [];
  const sum = { files: 0, bytes: 0 };
  const place = HeldFolder.open(parent, isSplit ? name : '');
  try {
    for (const [i, frames] of parts.entries()) {
      const own = isSplit ? narrowBrief(brief, null, frames) : brief;
      const ownOrder = workOutOrder(own);
      const named = namesOf(ownOrder);
      // What bears another name than the ordered one, and was waived, goes along with the first volume.
      const files = counted.filter(({ path: file }) => named.has(file) || (i === 0 && !ordered.has(file)));
      const bag = await writeBag({
        ...{ source: folder, files, parent: place, name: isSplit ? `volume_${i + 1}` : name, aside: `0-${randomBytes(4).toString('hex')}` },
        documents: packageDocuments(own, ownOrder, files, { ...checkObject(tally), level: tally.level, waivers }),
        info: [
          ['Bag-Software-Agent', 'Mint Tally'],
          ['Bagging-Date', at.toISOString().slice(0, 10)],
          ['External-Identifier', brief.shot],
          ...(waive ? [['Contact-Name', waive.person] as const] : []),
          // RFC 8493, section 2.2.2: these two say that a bag is one of several.
          ...(isSplit ? [['Bag-Group-Identifier', `${brief.shot} ${at.toISOString()}`] as const, ['Bag-Count', `${i + 1} of ${parts.length}`] as const] : []),
        ],
        stopped: () => false,
        onProgress: ({ done, total }) => onProgress(`copying: ${done} of ${total} files${isSplit ? ` of volume ${i + 1}` : ''}`),
        onWhole: async () => undefined,
      });
      sum.files += bag!.files;
      sum.bytes += bag!.bytes;
    }
  } finally {
    place.close();
  }
  const out = path.join(parent, name);
  const said = `${out}: ${sum.files} files, ${sayBytes(sum.bytes)}${isSplit ? `, in ${parts.length} volumes` : ''}. ./mint verify FOLDER says whether it arrived whole.`;
  return { folder: out, ...sum, volumes: parts.length, said };
}

/** The names of all ordered files. */
const namesOf = ({ passes }: Order) => new Set(passes.flatMap(({ pattern, frames }) => [...frames].map((frame) => framePath(pattern, frame))));

/** @throws MintError */
function parsePackageArguments(argv: readonly string[]): Wanted {
  const text = { type: 'string' } as const;
  let parsed;
  try {
    parsed = parseArgs({
      args: [...argv],
      allowPositionals: true,
      options: { brief: text, out: text, passes: text, range: text, 'volume-size': text, waive: text, json: { type: 'boolean', default: false } },
    });
  } catch (thrown) {
    throw new UsageError(`${(thrown as Error).message.split('\n')[0]!.replace(/\.?$/, '.')}`);
  }
  const { positionals, values } = parsed;
  if (positionals.length !== 1) throw new UsageError(positionals.length === 0 ? 'No folder was named.' : 'More than one folder was named.');
  if (values.brief === undefined) throw new UsageError('No brief was named.');
  if (values.out === undefined) throw new UsageError('It was not said where the package is made: --out.');
  const folder = folderNamed(positionals[0]!);
  const whole = readBrief(values.brief);
  const passes = values.passes === undefined ? null : values.passes.split(',').map((name) => name.trim());
  const unknown = passes?.find((name) => !whole.passes.some((pass) => pass.name === name));
  if (unknown !== undefined) throw new UsageError(`The brief orders no pass ${unknown}.`);
  const frames = values.range === undefined ? null : parseFrameRange(values.range);
  if (frames && parseFrameRange(whole.range).intersection(frames).isEmpty) throw new UsageError(`The brief orders none of ${values.range}.`);
  const narrowed = narrowBrief(whole, passes, frames);
  return {
    ...{ folder, brief: parseBrief(JSON.parse(JSON.stringify(narrowed)), values.brief), json: values.json },
    ...targetOf(values.out, folder),
    volumeSize: values['volume-size'] === undefined ? null : bytesOf(values['volume-size']),
    waive: values.waive === undefined ? null : waiverOf(values.waive),
  };
}

function targetOf(out: string, folder: string): { parent: string; name: string } {
  const full = path.resolve(out);
  const parent = path.dirname(full);
  if (!existsSync(parent)) mkdirSync(parent, { recursive: true });
  const real = realpathSync(parent);
  if (isInside(folder, path.join(real, path.basename(full))))
    throw new MintError('inside-shot', `${out} lies in the shot’s own folder.`, {
      subject: out,
      remedy: 'Make the package elsewhere: it would be counted as a part of the shot.',
    });
  if (existsSync(full)) throw new MintError('package-exists', `${out} is there already.`, { subject: out, remedy: 'Name another folder.' });
  return { parent: real, name: path.basename(full) };
}

const UNITS: Record<string, number> = { '': 1, B: 1, KB: 1e3, MB: 1e6, GB: 1e9, TB: 1e12 };

function bytesOf(text: string): number {
  const match = /^(\d+(?:\.\d+)?)\s*([KMGT]?B)?$/i.exec(text.trim());
  const bytes = match ? Number(match[1]) * UNITS[(match[2] ?? '').toUpperCase()]! : NaN;
  if (!(bytes >= 1)) throw new UsageError(`${text} is no size of a volume; write 4GB or 700MB.`);
  return bytes;
}

function waiverOf(text: string): { person: string; reason: string } {
  const [, person, reason] = /^\s*([^:]{1,200}?)\s*:\s*(\S.{2,1999})$/s.exec(text) ?? [];
  if (person === undefined || reason === undefined) throw new UsageError('A waiver names who answers for it, and why: --waive "NAME: REASON".');
  return { person, reason };
}
