import { createHash } from 'node:crypto';
import { closeSync, createReadStream, existsSync, lstatSync, readFileSync, statSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import path from 'node:path';
import {
  coversFinding,
  describeError,
  manifestAlgorithms,
  MintError,
  parseBrief,
  readBagInfo,
  readManifest,
  unsafePathReason,
  waiverSubjectSchema,
  type ManifestAlgorithm,
  type Tally,
} from '@mint-tally/core';
import { FileAccessError } from '@mint-tally/disk';
import * as z from 'zod';
import { countFolder } from '../counting/count-folder.ts';
import { openInside } from '../files/roots.ts';
import type { InspectionPool } from '../inspection/pool.ts';
import { DOCUMENTS } from './documents.ts';

export const problemCodes = ['missing-file', 'changed-file', 'extra-file', 'bad-manifest', 'unsafe-path', 'missing-volume'] as const;

/** Something that is not as the package says. */
export interface PackageProblem {
  readonly code: (typeof problemCodes)[number];
  /** Relative to the package. */
  readonly file: string;
  readonly message: string;
}

/** What a package is found to be. */
export interface VerifiedPackage {
  /** True when every file is there, right, and nothing else is. */
  readonly valid: boolean;
  /** Files of the payload that were read, and their bytes. */
  readonly files: number;
  readonly bytes: number;
  readonly problems: readonly PackageProblem[];
  /** The frames counted again against the brief inside; null where there is none. */
  readonly tally: Tally | null;
  /** Checksum of its manifest as it lies there, and the shot that it says it is of; empty where it says neither. */
  readonly manifestSha256: string;
  readonly shot: string;
  /** Whether nothing but what was waived inside stands against the frames. */
  readonly isReady: boolean;
}

const PAYLOAD = 'data';
/** A text of a package is not longer than this: two million frames with long names. */
const LONGEST_TEXT = 1 << 29;
/**
 * Verifies a package by what lies in it: every file of every manifest by its checksum, nothing besides, and the frames counted
 * again. Nothing in it is trusted: no path is followed out of it, and nothing is fetched.
 *
 * @param folder real path
 * @param onProgress told after each file; what it throws ends the verifying
 * @throws FileAccessError when the folder itself cannot be read
 */
export async function verifyPackage(
  folder: string,
  pool: InspectionPool | null,
  onProgress: (phase: 'verifying' | 'counting', done: number, total: number) => void = () => undefined,
): Promise<VerifiedPackage> {
  const problems: PackageProblem[] = [];
  const tell: Tell = (code, file, message) => {
    // A link that a manifest names is also one that stands there: one fault is told once.
    if (code !== 'unsafe-path' || !problems.some((problem) => problem.code === code && problem.file === file)) problems.push({ code, file, message });
  };
  const names = (await readdir(folder)).sort();
  checkDeclaration(folder, names, tell);
  const listed = new Set<string>();
  const seen = { files: 0, bytes: 0 };
  const read = new Set<string>();
  const manifests = names.flatMap((name) => manifestOf(name) ?? []);
  if (!manifests.some(({ isTag }) => !isTag)) tell('bad-manifest', folder, 'There is no manifest: nothing says what belongs here.');
  for (const { name, algorithm, isTag } of manifests) {
    const text = readText(folder, name, tell);
    if (text === null) continue;
    const { lines, broken } = readManifest(text, manifestAlgorithms[algorithm]);
    for (const { line, why } of broken) tell('bad-manifest', name, `Line ${line} cannot be followed: ${why}.`);
    const own = new Set<string>();
    for (const [i, { line, path: file, checksum }] of lines.entries()) {
      const unsafe = unsafePathReason(file) ?? (isTag || file.startsWith(`${PAYLOAD}/`) ? null : `it is not below ${PAYLOAD}/`);
      if (unsafe !== null) {
        tell('unsafe-path', file, `Line ${line} of ${name} is not followed: ${unsafe}.`);
        continue;
      }
      if (own.has(file)) tell('bad-manifest', name, `Line ${line} names ${file} a second time.`);
      own.add(file);
      if (!isTag) listed.add(file);
      const found = await hashOf(folder, file, algorithm, tell);
      if (found === null) continue;
      if (found.checksum !== checksum && !problems.some((problem) => problem.file === file && problem.code === 'changed-file'))
        tell(
          'changed-file',
          file,
          `${file} is not what ${name} says: its ${algorithm} is ${found.checksum.slice(0, 12)}… where ${checksum.slice(0, 12)}… is written.`,
        );
      if (!isTag && !read.has(file)) {
        read.add(file);
        seen.files++;
        seen.bytes += found.bytes;
      }
      onProgress('verifying', i + 1, lines.length);
    }
  }
  await findExtra(folder, listed, tell);
  checkFetch(folder, names, listed, tell);
  await checkInfo(folder, names, seen, problems.length > 0, tell);
  const { tally, isReady } = await countAgain(folder, pool, tell, onProgress);
  return { valid: problems.length === 0, ...seen, problems, tally, isReady, ...nameOf(folder, names, tell) };
}

/** What names the package: its manifest, and what it says of itself. */
function nameOf(folder: string, names: readonly string[], tell: Tell): Pick<VerifiedPackage, 'manifestSha256' | 'shot'> {
  const manifest = names.includes('manifest-sha256.txt') ? readText(folder, 'manifest-sha256.txt', tell) : null;
  const info = names.includes('bag-info.txt') ? readBagInfo(readText(folder, 'bag-info.txt', tell) ?? '') : null;
  return {
    manifestSha256: manifest === null ? '' : createHash('sha256').update(manifest).digest('hex'),
    shot: info?.get('external-identifier')?.[0] ?? '',
  };
}

type Tell = (code: PackageProblem['code'], file: string, message: string) => void;

function manifestOf(name: string): { name: string; algorithm: ManifestAlgorithm; isTag: boolean }[] | null {
  const [, tag, algorithm] = /^(tag)?manifest-([a-z0-9]+)\.txt$/.exec(name) ?? [];
  return algorithm !== undefined && algorithm in manifestAlgorithms ? [{ name, algorithm: algorithm as ManifestAlgorithm, isTag: tag !== undefined }] : null;
}

/** RFC 8493, section 2.1.1. */
function checkDeclaration(folder: string, names: readonly string[], tell: Tell): void {
  if (!names.includes('bagit.txt')) return void tell('bad-manifest', 'bagit.txt', 'There is no bagit.txt: this is no package by BagIt.');
  const text = readText(folder, 'bagit.txt', tell);
  if (text !== null && !/^\ufeff?BagIt-Version: \d+\.\d+\r?\nTag-File-Character-Encoding: UTF-8\r?\n?$/.test(text))
    tell('bad-manifest', 'bagit.txt', 'bagit.txt does not declare a version of BagIt and UTF-8.');
}

function readText(folder: string, name: string, tell: Tell): string | null {
  try {
    const { descriptor, stats } = openInside(folder, name);
    try {
      if (stats.size > LONGEST_TEXT) throw new MintError('too-large', `${name} is too large to be a manifest.`);
      return readFileSync(descriptor, 'utf8');
    } finally {
      closeSync(descriptor);
    }
  } catch (thrown) {
    if (!(thrown instanceof MintError)) throw thrown;
    tell('bad-manifest', name, describeError(thrown));
    return null;
  }
}

async function hashOf(folder: string, file: string, algorithm: ManifestAlgorithm, tell: Tell): Promise<{ checksum: string; bytes: number } | null> {
  let opened;
  try {
    opened = openInside(folder, file);
  } catch (thrown) {
    if (!(thrown instanceof FileAccessError)) throw thrown;
    if (thrown.code === 'not-found') tell('missing-file', file, `${file} is not there.`);
    else if (thrown.code === 'outside-root') tell('unsafe-path', file, `${file} is a link that leads out of the package, and is not followed.`);
    else tell('missing-file', file, `${file} cannot be read: ${thrown.message}`);
    return null;
  }
  const hash = createHash(algorithm);
  let bytes = 0;
  for await (const piece of createReadStream('', { fd: opened.descriptor, highWaterMark: 1 << 20 })) {
    bytes += (piece as Buffer).length;
    hash.update(piece as Buffer);
  }
  return { checksum: hash.digest('hex'), bytes };
}

async function findExtra(folder: string, listed: ReadonlySet<string>, tell: Tell): Promise<void> {
  const payload = path.join(folder, PAYLOAD);
  if (!existsSync(payload)) return void tell('missing-file', PAYLOAD, `There is no folder ${PAYLOAD}.`);
  for (const entry of await readdir(payload, { recursive: true, withFileTypes: true })) {
    const file = path.relative(folder, path.join(entry.parentPath, entry.name));
    if (entry.isSymbolicLink()) tell('unsafe-path', file, `${file} is a link; a package holds files.`);
    else if (!entry.isDirectory() && !listed.has(file)) tell('extra-file', file, `${file} is there, and no manifest names it.`);
  }
}

/** What is to be fetched is not fetched: it is a hole until it is there (RFC 8493, section 2.2.3). */
function checkFetch(folder: string, names: readonly string[], listed: ReadonlySet<string>, tell: Tell): void {
  if (!names.includes('fetch.txt')) return;
  for (const [i, row] of (readText(folder, 'fetch.txt', tell) ?? '').split(/\r\n|\n|\r/).entries()) {
    const match = /^(\S+)[ \t]+(\S+)[ \t]+(.+)$/.exec(row);
    if (row.trim() === '') continue;
    const file = match?.[3] ?? '';
    const unsafe = match ? unsafePathReason(file) : null;
    if (!match) tell('bad-manifest', 'fetch.txt', `Line ${i + 1} cannot be followed.`);
    else if (unsafe !== null) tell('unsafe-path', file, `Line ${i + 1} of fetch.txt is not followed: ${unsafe}.`);
    else if (!listed.has(file)) tell('bad-manifest', 'fetch.txt', `${file} is to be fetched, and no manifest names it.`);
  }
}

/** Bytes and files of the whole, and of how many volumes this is one (RFC 8493, section 2.2.2). */
async function checkInfo(folder: string, names: readonly string[], seen: { files: number; bytes: number }, isKnown: boolean, tell: Tell): Promise<void> {
  if (!names.includes('bag-info.txt')) return;
  const info = readBagInfo(readText(folder, 'bag-info.txt', tell) ?? '');
  const [oxum] = info.get('payload-oxum') ?? [];
  // Where something is missing or changed, that is what is wrong.
  if (oxum !== undefined && !isKnown && oxum !== `${seen.bytes}.${seen.files}`)
    tell('bad-manifest', 'bag-info.txt', `It speaks of ${oxum} (bytes and files), and ${seen.bytes}.${seen.files} are there.`);
  const [, number, total] = /^(\d+) of (\d+)$/.exec(info.get('bag-count')?.[0] ?? '') ?? [];
  const [group] = info.get('bag-group-identifier') ?? [];
  if (total === undefined || group === undefined) return;
  const there = new Set([number, ...(await volumesBeside(folder, group))]);
  for (let volume = 1; volume <= Number(total) && volume <= 10_000; volume++)
    if (!there.has(String(volume))) tell('missing-volume', `${volume} of ${total}`, `Volume ${volume} of ${total} of ${group} is not beside this one.`);
}

async function volumesBeside(folder: string, group: string): Promise<string[]> {
  const parent = path.dirname(folder);
  const found: string[] = [];
  for (const name of await readdir(parent)) {
    const file = path.join(parent, name, 'bag-info.txt');
    if (!existsSync(file) || lstatSync(path.join(parent, name)).isSymbolicLink() || statSync(file).size > LONGEST_TEXT) continue;
    const info = readBagInfo(readFileSync(file, 'utf8'));
    const [, number] = /^(\d+) of \d+$/.exec(info.get('bag-count')?.[0] ?? '') ?? [];
    if (number !== undefined && info.get('bag-group-identifier')?.[0] === group) found.push(number);
  }
  return found;
}

const waiversSchema = z.object({ waivers: z.array(z.object({ subject: waiverSubjectSchema })) });

/** The frames, against the brief that came with them; what was waived when they were handed over is waived. */
async function countAgain(
  folder: string,
  pool: InspectionPool | null,
  tell: Tell,
  onProgress: (phase: 'counting', done: number, total: number) => void,
): Promise<Pick<VerifiedPackage, 'tally' | 'isReady'>> {
  const payload = path.join(folder, PAYLOAD);
  if (!existsSync(path.join(payload, 'brief.json'))) return { tally: null, isReady: true };
  try {
    const brief = parseBrief(JSON.parse(readText(folder, `${PAYLOAD}/brief.json`, tell) ?? 'null'), 'brief.json');
    const { tally } = await countFolder({
      folder: payload,
      brief,
      level: 'full',
      pool,
      proxyFolder: null,
      now: Date.now(),
      onProgress: ({ done, total }) => onProgress('counting', done, total),
    });
    const own = tally.findings.filter(({ code, files }) => code !== 'stray-file' || files.some((file) => !DOCUMENTS.has(file)));
    const text = existsSync(path.join(payload, 'tally.json')) ? readText(folder, `${PAYLOAD}/tally.json`, tell) : null;
    const known = waiversSchema.safeParse(text === null ? null : JSON.parse(text));
    const waivers = known.success ? known.data.waivers : [];
    const isReady = own.every((finding) => finding.severity !== 'blocker' || waivers.some(({ subject }) => coversFinding(subject, finding)));
    return { tally: { ...tally, findings: own }, isReady };
  } catch (thrown) {
    if (!(thrown instanceof MintError) && !(thrown instanceof SyntaxError)) throw thrown;
    tell('bad-manifest', `${PAYLOAD}/brief.json`, `The frames cannot be counted: ${describeError(thrown)}`);
    return { tally: null, isReady: false };
  }
}
