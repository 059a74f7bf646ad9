import { existsSync, mkdirSync, realpathSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import {
  acceptFinding,
  briefToHandOver,
  composeNote,
  describeError,
  MintError,
  packageWishSchema,
  parseBrief,
  sayBytes,
  type Brief,
  type PackageWish,
  type Tally,
} from '@mint-tally/core';
import { HeldFolder, isInside } from '@mint-tally/disk';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { checkObject, checkText } from '../check/report.ts';
import { UsageError, wordsOf } from '../check/words.ts';
import { countFolder, type CountedFile } from '../counting/count-folder.ts';
import { InspectionPool } from '../inspection/pool.ts';
import { isAlive } from '../jobs/this-host.ts';
import { packageParts } from './parts.ts';
import type { Taking } from './sinks.ts';
import type { ExtraSum } from './sums.ts';
import { writePackage } from './write-package.ts';

export const PACKAGE_USAGE =
  'Usage: ./mint package FOLDER --brief FILE.json --out FOLDER [--passes A,B] [--range R] [--volume-size 4GB] [--tar | --link | --clone] [--sums sha512,xxh64] [--without-handles] [--waive "NAME: REASON"] [--json]';

const wrong = (message: string) => new UsageError(message, PACKAGE_USAGE);

interface Wanted {
  readonly folder: string;
  /** What is handed over: of the brief the passes and frames that were named. */
  readonly brief: Brief;
  /** Whether that is all of it. */
  readonly isWhole: boolean;
  /** Real path of the folder that the package is made in, and its name there. */
  readonly parent: string;
  readonly name: string;
  readonly form: PackageWish['form'];
  readonly taking: Taking;
  readonly sums: readonly ExtraSum[];
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
  { folder, brief, isWhole, parent, name, volumeSize, waive, form, taking, sums }: Wanted,
  tally: Tally,
  counted: readonly CountedFile[],
  onProgress: (text: string) => void,
) {
  const at = new Date();
  const blockers = tally.findings.filter(({ severity }) => severity === 'blocker');
  const waivers = waive ? blockers.map((finding) => ({ subject: acceptFinding(finding), ...waive, at: at.toISOString() })) : [];
  const parts = packageParts({
    ...{ brief, counted, isWhole, volumeSize, group: `${brief.shot} ${at.toISOString()}` },
    documents: {
      'tally.json': { ...checkObject(tally), level: tally.level, waivers },
      'note.md': composeNote({
        ...{ brief, findings: tally.findings, vectors: null, isAssayed: false },
        isWaived: (finding) => waive !== null && finding.severity === 'blocker',
        waivers: waive ? blockers.map(({ message }) => ({ what: message, ...waive })) : [],
      }),
    },
    info: [
      ['Bag-Software-Agent', 'Mint Tally'],
      ['Bagging-Date', at.toISOString().slice(0, 10)],
      ['External-Identifier', brief.shot],
      ...(waive ? [['Contact-Name', waive.person] as const] : []),
    ],
  });
  const place = HeldFolder.open(parent, '');
  try {
    const written = await writePackage({
      ...{ source: folder, parts, parent: place, name, form, taking, sums },
      // A process of this name that is gone left what it had begun: the next one goes on with it.
      ...{ aside: `0-${process.pid.toString(16)}`, isLeft: isOfDeadProcess },
      ...{ stopped: () => false, isKept: () => true, onWhole: async () => undefined },
      onProgress: ({ done, total }) => onProgress(`packing: ${done} of ${total} files`),
    });
    const { files, bytes } = written!;
    const out = path.join(parent, name);
    const volumes = parts.length;
    const how = form === 'tar' ? 'Unpacked, ./mint verify FOLDER says whether it arrived whole.' : './mint verify FOLDER says whether it arrived whole.';
    const said = `${out}: ${files} files, ${sayBytes(bytes)}${volumes > 1 ? `, in ${volumes} volumes` : ''}. ${how}`;
    return { folder: out, files, bytes, volumes, said };
  } finally {
    place.close();
  }
}

function isOfDeadProcess(aside: string): boolean {
  const [, process] = /^0-([0-9a-f]+)$/.exec(aside) ?? [];
  return process !== undefined && !isAlive(parseInt(process, 16));
}

/** @throws MintError */
function parsePackageArguments(argv: readonly string[]): Wanted {
  const [text, flag] = [{ type: 'string' } as const, { type: 'boolean', default: false } as const];
  const { folder: named, values } = wordsOf(
    argv,
    {
      ...{ brief: text, out: text, passes: text, range: text, 'volume-size': text, waive: text, tar: flag, link: flag, clone: flag, sums: text },
      ...{ 'without-handles': flag, json: flag },
    },
    PACKAGE_USAGE,
  );
  if (values.brief === undefined) throw wrong('No brief was named.');
  if (values.out === undefined) throw wrong('It was not said where the package is made: --out.');
  if ([values.tar, values.link, values.clone].filter(Boolean).length > 1) throw wrong('A tar holds copies: --tar, --link and --clone stand alone.');
  const folder = folderNamed(named);
  const whole = readBrief(values.brief);
  const passes = values.passes === undefined ? [] : values.passes.split(',').map((name) => name.trim());
  const narrowed = briefToHandOver(whole, { passes, range: values.range ?? '', withHandles: !values['without-handles'] });
  const wish = packageWishSchema.safeParse({
    ...{ passes, form: values.tar ? 'tar' : 'folder', taking: values.link ? 'link' : values.clone ? 'clone' : 'copy' },
    sums: values.sums === undefined ? [] : values.sums.split(',').map((sum) => sum.trim()),
  });
  if (!wish.success) throw wrong(`${values.sums ?? ''} are no checksums that are made besides SHA-256; write sha512, xxh64 or both.`);
  return {
    ...{ folder, brief: parseBrief(JSON.parse(JSON.stringify(narrowed)), values.brief), json: values.json },
    ...{ isWhole: passes.length === 0 && values.range === undefined && !values['without-handles'] },
    ...{ form: wish.data.form, taking: wish.data.taking, sums: wish.data.sums },
    ...targetOf(values.tar && !values.out.endsWith('.tar') && values['volume-size'] === undefined ? `${values.out}.tar` : values.out, folder),
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
  if (!(bytes >= 1)) throw wrong(`${text} is no size of a volume; write 4GB or 700MB.`);
  return bytes;
}

function waiverOf(text: string): { person: string; reason: string } {
  const [, person, reason] = /^\s*([^:]{1,200}?)\s*:\s*(\S.{2,1999})$/s.exec(text) ?? [];
  if (person === undefined || reason === undefined) throw wrong('A waiver names who answers for it, and why: --waive "NAME: REASON".');
  return { person, reason };
}
