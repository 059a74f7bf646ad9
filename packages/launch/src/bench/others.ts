import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { frameFormats, memorySource } from '@mint-tally/core';
import { codecTools, projectFolder } from '@mint-tally/engine';

/** Files that others write, for measuring: made by ImageMagick, OpenImageIO and libtiff's tools from Debian. */
export interface OtherFile {
  readonly name: string;
  readonly file: string;
}

/** Runs a program. @throws Error when it fails */
function run(program: string, ...argv: string[]): void {
  const { status, stderr, error } = spawnSync(program, argv, { encoding: 'utf8', maxBuffer: 1 << 30 });
  if (error || status !== 0) throw new Error(`${program} failed: ${error?.message ?? stderr}`);
}

/** Whether the programs that make and read the files are there. */
export function canMeasureOthers(): boolean {
  return ['convert', 'oiiotool', 'tiffcp', 'g++'].every((program) => !spawnSync(program, ['--version'], { stdio: 'ignore' }).error);
}

/** Compiles the program that reads frames with the libraries that others use; null where that cannot be done. */
export function buildReader(folder: string): string | null {
  const program = path.join(folder, 'read-frames');
  const source = path.join(projectFolder(), 'packages/launch/src/bench/read-frames.cpp');
  const libraries = ['-lOpenEXR', '-lImath', '-lIlmThread', '-lIex', '-ltiff', '-ljpeg'];
  const { status } = spawnSync('g++', ['-O2', '-o', program, source, '-I/usr/include/OpenEXR', '-I/usr/include/Imath', ...libraries], { stdio: 'ignore' });
  return status === 0 ? program : null;
}

const SIZE = '2048x1080';

/** A picture like a rendered one, a soft fractal with noise, in every packing. */
export function makePackings(folder: string): OtherFile[] {
  const at = (name: string) => path.join(folder, name);
  const [source, plain] = [at('source.tif'), at('plain.exr')];
  run('convert', '-size', SIZE, '-seed', '7', 'plasma:fractal', '-attenuate', '0.15', '+noise', 'Gaussian', '-depth', '16', source);
  run('oiiotool', source, '--ch', 'R,G,B,A=1.0', '-d', 'half', '--compression', 'none', '-o', plain);
  const files: OtherFile[] = [];
  const add = (name: string, file: string, ...words: [string, ...string[]]) => {
    run(...words);
    files.push({ name, file });
  };
  for (const packing of ['rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'dwaa', 'dwab']) {
    const file = at(`${packing}.exr`);
    add(`EXR ${packing}, half RGBA`, file, 'oiiotool', plain, '-d', 'half', '--compression', packing, '-o', file);
  }
  const short = at('short.tif');
  run('oiiotool', source, '-d', 'uint16', '--compression', 'none', '-o', short);
  for (const [name, packing] of [
    ['TIFF LZW, 16 bit', 'lzw'],
    ['TIFF LZW with predictor, 16 bit', 'lzw:2'],
    ['TIFF zip with predictor, 16 bit', 'zip:2'],
  ] as const) {
    const file = at(`${packing.replace(':', '-')}.tif`);
    add(name, file, 'tiffcp', '-r', '16', '-c', packing, short, file);
  }
  add('JPEG baseline 4:2:0', at('base.jpg'), 'convert', source, '-quality', '90', '-sampling-factor', '4:2:0', at('base.jpg'));
  add('JPEG progressive 4:2:0', at('steps.jpg'), 'convert', source, '-quality', '90', '-interlace', 'JPEG', '-sampling-factor', '4:2:0', at('steps.jpg'));
  return files;
}

/** Twelve PNG that ImageMagick wrote, its filters chosen row by row, with a channel that is zero all over. */
export function makePng(count: number, nameOf: (index: number) => string): void {
  for (let i = 0; i < count; i++) {
    const words = ['-size', '1920x1080', `gradient:rgb(${20 + i},180,0)-rgb(200,${40 + i},0)`, '-define', 'png:compression-filter=5', nameOf(i)];
    run('convert', ...words);
  }
}

/** EXR that the OpenEXR library wrote: a picture in a black surround under an alpha of 0. */
export function makeExr(folder: string, count: number, nameOf: (index: number) => string): void {
  const source = path.join(folder, 'surround.tif');
  for (let i = 0; i < count; i++) {
    const middle = ['-size', '960x540', '-seed', String(i + 1), 'plasma:fractal', '-attenuate', '0.1', '+noise', 'Gaussian', '-alpha', 'set'];
    run('convert', ...middle, '-background', 'none', '-gravity', 'center', '-extent', '1920x1080', '-depth', '16', source);
    run('oiiotool', source, '-d', 'half', '--compression', 'zip', '-o', nameOf(i));
  }
}

const ROUNDS = 5;

/** The least processor time of a whole decode of each file, in milliseconds. */
export function decodeTimes(files: readonly OtherFile[]): number[] {
  return files.map(({ file }) => {
    const bytes = new Uint8Array(readFileSync(file));
    const format = frameFormats.find(({ extensions }) => extensions.includes(path.extname(file).slice(1)))!;
    let least = Infinity;
    for (let round = 0; round < ROUNDS; round++) {
      const before = process.cpuUsage();
      format.open(memorySource(bytes)).decode(codecTools);
      const { user, system } = process.cpuUsage(before);
      least = Math.min(least, (user + system) / 1000);
    }
    return least;
  });
}

/** The same by the libraries that others use. */
export function readerTimes(program: string, files: readonly OtherFile[]): number[] {
  const { stdout } = spawnSync(program, [String(ROUNDS), ...files.map(({ file }) => file)], { encoding: 'utf8' });
  return stdout.trim().split('\n').map(Number);
}
