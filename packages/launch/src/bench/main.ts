import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief, type Brief, type TallyLevel } from '@mint-tally/core';
import { assayFolder, denoiseFolder, countFolder, InspectionPool, servicesFolder, type CountOptions, type KnownFile } from '@mint-tally/engine';
import { buildReader, canMeasureOthers, decodeTimes, makeExr, makePackings, makePng, readerTimes } from './others.ts';
import { makePackedShot } from './packaging.ts';
import { peakMemory } from './peak-memory.ts';
import { halfFrame, HEIGHT, pictureLikeExr, pictureLikePng, smallPng, WIDTH } from './pictures.ts';
import { decodeShot, FRAMES, renderedBrief, renderShot } from './rendered/shot.ts';
import { command, printTable, race, shell, timed, timesOf, type Row } from './racing.ts';

/**
 * Measures the works of the design's table, each against its yardstick in the same run. Ours has
 * all processors, as it has when it counts a shot; the yardsticks run as they are.
 */

const top = mkdtempSync(path.join(os.tmpdir(), 'mint-bench-'));
const all = new InspectionPool(os.availableParallelism());

try {
  // A word after the command measures only the rows of that name.
  const wanted = process.argv[2] ?? '';
  const rows: Row[] = [];
  for (const [name, measure] of Object.entries({
    names: namesRow,
    recount: recountRow,
    headers: headersRow,
    png: pngRow,
    exr: exrRow,
    others: othersRow,
    packings: packingsRow,
    assay: assayRows,
    package: packageRow,
    denoise: denoiseRows,
    memory: memoryRow,
  })) {
    if (name.includes(wanted)) rows.push(...[await measure()].flat());
  }
  printTable(rows);
} finally {
  await all.close();
  rmSync(top, { recursive: true, force: true });
}

/** Passes of `frames` files each, the content of each made by `content`. */
function makeFolder(
  name: string,
  passes: number,
  frames: number,
  extension: string,
  content: (frame: number, pass: number) => Uint8Array,
): { folder: string; brief: Brief } {
  const folder = path.join(top, name);
  const names = Array.from({ length: passes }, (_, i) => `pass${String(i + 1).padStart(2, '0')}`);
  for (const [index, pass] of names.entries()) {
    mkdirSync(path.join(folder, pass), { recursive: true });
    for (let frame = 1001; frame <= 1000 + frames; frame++)
      writeFileSync(path.join(folder, pass, `shot_${pass}.${String(frame).padStart(5, '0')}.${extension}`), content(frame, index));
  }
  const brief = parseBrief({
    shot: 'bench',
    range: `1001-${1000 + frames}`,
    passes: names.map((pass) => ({ name: pass, pattern: `${pass}/shot_${pass}.#####.${extension}` })),
  });
  return { folder, brief };
}

function count(folder: string, brief: Brief, level: TallyLevel, pool: InspectionPool | null, more: Partial<CountOptions> = {}) {
  return countFolder({ folder, brief, level, pool, proxyFolder: null, now: Date.now(), ...more });
}

async function namesRow(): Promise<Row> {
  const { folder, brief } = makeFolder('names', 10, 10_000, 'exr', () => new Uint8Array(0));
  const times = await race(
    () => count(folder, brief, 'names', null),
    () => shell(`find '${folder}' > /dev/null`),
  );
  return { work: 'group and tally 100,000 names', yardstick: 'find', ...times, aim: 1.5 };
}

async function recountRow(): Promise<Row[]> {
  const { folder, brief } = makeFolder('recount', 4, 5000, 'png', smallPng);
  const known = new Map<string, KnownFile>();
  const previous = await count(folder, brief, 'full', all, { onInspected: (file) => void known.set(file.path, file) });
  const recount = () => count(folder, brief, 'full', all, { known: async () => known, previous });
  const touch = () => {
    for (let frame = 1001; frame <= 1020; frame++) utimesSync(path.join(folder, 'pass01', `shot_pass01.0${frame}.png`), new Date(), new Date());
  };
  const list = () => shell(`find '${folder}' -printf '%s %T@ %p\\n' > /dev/null`);
  const yardstick = 'find -printf, size and time';
  return [
    { work: 're-tally 20,000 unchanged files', yardstick, ...(await race(recount, list)), aim: 3 },
    { work: 're-tally 20,000 files, 20 of them new', yardstick, ...(await race(() => (touch(), recount()), list)), aim: null },
  ];
}

async function headersRow(): Promise<Row> {
  const bytes = halfFrame();
  const { folder, brief } = makeFolder('headers', 1, 2000, 'exr', () => bytes);
  await count(folder, brief, 'headers', all);
  const times = await race(
    () => count(folder, brief, 'headers', all),
    () => shell(`find '${folder}' -type f -print0 | xargs -0 cat > /dev/null`),
  );
  return { work: 'header check of 2,000 frames', yardstick: 'cat, warm cache', ...times, aim: 2 };
}

/** What measuring takes beside the decode, which it has to do as well. */
async function assayRows(): Promise<Row[]> {
  const rows: Row[] = [];
  for (const [count, threads, where] of [
    // So few frames are measured in this thread, as the yardstick decodes them.
    [3, 1, 'on one thread'],
    [FRAMES, undefined, 'on all processors'],
  ] as const) {
    const folder = await renderShot(top);
    const times = await race(
      () => assayFolder({ folder, brief: renderedBrief(count), now: Date.now(), threads }),
      () => decodeShot(folder, count),
    );
    rows.push({
      work: `noise and passes of ${count} frames, 1080p, ${where}, beside their decode`,
      yardstick: 'decoding what it reads, on one',
      ours: times.ours - times.theirs,
      theirs: times.theirs,
      aim: 1,
    });
  }
  return rows;
}

/** Frames that the OpenEXR library wrote, where it is there. */
async function packageRow(): Promise<Row> {
  const file = path.join(top, 'noise.exr');
  const { error } = spawnSync('oiiotool', ['--pattern', 'noise:type=uniform', '400x300', '4', '-d', 'half', '--compression', 'zip', '-o', file]);
  const { folder, target, pack } = makePackedShot(top, error ? halfFrame() : readFileSync(file));
  const times = await race(pack, () => shell(`cd '${target}' && rm -rf copy && cp -r '${folder}' copy && cd copy && sha256sum * > ../sums`));
  return { work: 'package of 2,000 frames', yardstick: 'cp -r and sha256sum', ...times, aim: 1 };
}

/** What a frame takes of a range, with measuring its noise; on all processors. */
async function denoiseRows(): Promise<Row[]> {
  const folder = await renderShot(top);
  const brief = renderedBrief(FRAMES);
  const rows: Row[] = [];
  for (const [frames, seconds] of [
    [1, 4],
    [5, 12],
  ] as const) {
    let ours = Infinity;
    // The faster counts, as of the others; so many seconds at a time need not be measured as often.
    for (const turn of [1, 2]) {
      const out = `denoised-${frames}-${turn}`;
      const work = () => denoiseFolder({ folder, brief, pass: 'beauty', limit: top, out, strength: 1, frames, range: null, now: Date.now() });
      ours = Math.min(ours, (await timed(work)) / FRAMES);
    }
    const perMegapixel = (ours / 1000 / ((WIDTH * HEIGHT) / 1e6)).toFixed(1);
    const what = frames === 1 ? 'by itself' : `over ${frames} frames`;
    rows.push({
      work: `denoise 1080p ${what}, each of ${FRAMES} (${perMegapixel} s a megapixel)`,
      yardstick: `${seconds} s`,
      ours,
      theirs: seconds * 1000,
      aim: 1,
    });
  }
  return rows;
}

async function pngRow(): Promise<Row[]> {
  if (spawnSync('pngcheck', [], { stdio: 'ignore' }).error) {
    console.error('bench: pngcheck is not installed; its row is left out (apt-get install pngcheck).');
    return [];
  }
  const { folder, brief } = makeFolder('png', 1, 12, 'png', (frame) => pictureLikePng(frame));
  await count(folder, brief, 'full', all);
  const times = await race(
    () => count(folder, brief, 'full', all),
    () => command('pngcheck', ['-q', ...frameFiles(folder, 'png')]),
  );
  return [{ work: 'full check of 12 PNG, 1080p RGB', yardstick: 'pngcheck -q', ...times, aim: 0.8 }];
}

async function exrRow(): Promise<Row[]> {
  const reader = buildReader(top);
  if (!reader) return leaveOut('the OpenEXR library', 'g++ libopenexr-dev libtiff-dev libjpeg-dev');
  const { folder, brief } = makeFolder('exr', 1, 12, 'exr', pictureLikeExr);
  await count(folder, brief, 'full', all);
  const times = await race(
    () => count(folder, brief, 'full', all),
    () => command(reader, ['1', ...frameFiles(folder, 'exr')]),
  );
  return [{ work: 'full check of 12 EXR, 1080p half RGBA zip', yardstick: 'OpenEXR library, one thread', ...times, aim: 0.8 }];
}

function leaveOut(what: string, packages: string): Row[] {
  console.error(`bench: ${what} cannot be used; what is measured against it is left out (apt-get install ${packages}).`);
  return [];
}

/** Frames that others wrote: with a channel of nothing but zeros, with a black surround, one alone from a cold start. */
async function othersRow(): Promise<Row[]> {
  const reader = buildReader(top);
  if (!reader || !canMeasureOthers())
    return leaveOut('what others write', 'imagemagick openimageio-tools libtiff-tools g++ libopenexr-dev libtiff-dev libjpeg-dev');
  const rows: Row[] = [];
  // What stands in them first is written over.
  const png = makeFolder('others-png', 1, 12, 'png', () => new Uint8Array(0));
  const exr = makeFolder('others-exr', 1, 12, 'exr', () => new Uint8Array(0));
  makePng(12, (i) => frameFiles(png.folder, 'png')[i]!);
  makeExr(top, 12, (i) => frameFiles(exr.folder, 'exr')[i]!);
  const check =
    ({ folder, brief }: typeof png) =>
    () =>
      count(folder, brief, 'full', all);
  await check(png)();
  await check(exr)();
  const pngTimes = await race(check(png), () => command('pngcheck', ['-q', ...frameFiles(png.folder, 'png')]));
  rows.push({ work: 'full check of 12 PNG by ImageMagick, one channel all zero', yardstick: 'pngcheck -q', ...pngTimes, aim: 1 });
  const exrTimes = await race(check(exr), () => command(reader, ['1', ...frameFiles(exr.folder, 'exr')]));
  rows.push({ work: 'full check of 12 EXR by the OpenEXR library, black surround', yardstick: 'OpenEXR library, one thread', ...exrTimes, aim: 1 });
  const one = frameFiles(exr.folder, 'exr')[0]!;
  const alone = path.join(top, 'alone');
  mkdirSync(alone);
  copyFileSync(one, path.join(alone, 'shot.1001.exr'));
  const cold = await timesOf(() => command(path.join(servicesFolder(), '../../mint'), ['check', alone, '--json']));
  const bare = await timesOf(() => command('node', ['--eval', '0']));
  console.log(
    `./mint check of one frame from a cold start: ${cold.toFixed(0)} ms, of which Node.js alone takes ${bare.toFixed(0)}; aim 250 ms, ${cold <= 250 ? 'met' : 'missed'}`,
  );
  return rows;
}

/** Every packing against the library that most programs read it with: processor time of a whole decode. */
function packingsRow(): Promise<Row[]> {
  const reader = buildReader(top);
  if (!reader || !canMeasureOthers())
    return Promise.resolve(leaveOut('what others write', 'imagemagick openimageio-tools libtiff-tools g++ libopenexr-dev libtiff-dev libjpeg-dev'));
  const files = makePackings(top);
  const [ours, theirs] = [decodeTimes(files), readerTimes(reader, files)];
  const library = (file: string) => ({ '.exr': 'OpenEXR library', '.tif': 'libtiff', '.jpg': 'libjpeg-turbo' })[path.extname(file)]!;
  return Promise.resolve(
    files.map(({ name, file }, i) => ({ work: `decode ${name}, 2048 x 1080`, yardstick: library(file), ours: ours[i]!, theirs: theirs[i]!, aim: 3 })),
  );
}

/** The most memory of a full check of 10,000 frames; told in a line of its own, since it is no time. */
async function memoryRow(): Promise<Row[]> {
  const bytes = halfFrame();
  const { folder } = makeFolder('memory', 1, 10_000, 'exr', () => bytes);
  const peak = (await peakMemory([path.join(servicesFolder(), 'check.js'), folder, '--json'])) / 2 ** 20;
  console.log(`full check of 10,000 frames: ${peak.toFixed(0)} MB at most; aim 600 MB, ${peak <= 600 ? 'met' : 'missed'}`);
  return [];
}

/** The twelve files of a folder's one pass. */
function frameFiles(folder: string, extension: string): string[] {
  return Array.from({ length: 12 }, (_, i) => path.join(folder, 'pass01', `shot_pass01.0${1001 + i}.${extension}`));
}
