import { MintError } from '../errors.ts';

/** A lookup table out of a .cube file: what a screen shows for each red, green and blue. */
export interface LookupTable {
  readonly title: string;
  /** Entries along each axis. */
  readonly size: number;
  /** One table for each channel alone, or a cube that knows them together. */
  readonly isCube: boolean;
  /** What the first and the last entry stand for, red, green, blue. */
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
  /** Red, green and blue of each entry; in a cube red goes fastest. */
  readonly values: Float32Array;
}

/** Raised where a text is no lookup table. */
export class LookupTableError extends MintError {
  constructor(message: string, file: string) {
    super('lookup-table', message, { subject: file, remedy: 'Choose a .cube file with a 1D or a 3D table.' });
  }
}

const LARGEST_CUBE = 129;
const LARGEST_LINE = 65536;

/**
 * Reads the text of a .cube file: keywords, then three numbers a line, red fastest.
 *
 * @param file its name, for the message
 * @throws LookupTableError
 */
export function readCube(text: string, file: string): LookupTable {
  let title = '';
  let size = 0;
  let isCube = false;
  let from: [number, number, number] = [0, 0, 0];
  let to: [number, number, number] = [1, 1, 1];
  const values: number[] = [];
  text.split(/\r\n|\n|\r/).forEach((raw, at) => {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) return;
    const broken = (why: string) => new LookupTableError(`Line ${at + 1} of ${file} ${why}: ${line.slice(0, 60)}`, file);
    const numbers = (words: readonly string[], count: number): number[] => {
      const read = words.map(Number);
      if (words.length !== count || !read.every(Number.isFinite)) throw broken(`does not hold ${count === 1 ? 'a number' : `${count} numbers`}`);
      return read;
    };
    const [keyword, ...words] = line.split(/\s+/) as [string, ...string[]];
    switch (keyword) {
      case 'TITLE':
        title = line.slice('TITLE'.length).trim().replace(/^"|"$/g, '');
        return;
      case 'LUT_1D_SIZE':
      case 'LUT_3D_SIZE':
        if (size > 0) throw broken('gives a second size');
        isCube = keyword === 'LUT_3D_SIZE';
        [size] = numbers(words, 1) as [number];
        if (!Number.isInteger(size) || size < 2 || size > (isCube ? LARGEST_CUBE : LARGEST_LINE)) throw broken('gives a size that is not used');
        return;
      case 'DOMAIN_MIN':
        from = numbers(words, 3) as [number, number, number];
        return;
      case 'DOMAIN_MAX':
        to = numbers(words, 3) as [number, number, number];
        return;
      case 'LUT_1D_INPUT_RANGE':
      case 'LUT_3D_INPUT_RANGE': {
        const [least, most] = numbers(words, 2) as [number, number];
        from = [least, least, least];
        to = [most, most, most];
        return;
      }
      default:
        if (/^[A-Z_0-9]+$/.test(keyword) && !/^[\d.]/.test(keyword)) return;
        values.push(...numbers([keyword, ...words], 3));
    }
  });
  const wanted = 3 * (isCube ? size ** 3 : size);
  if (size === 0) throw new LookupTableError(`${file} does not say how large its table is.`, file);
  if (values.length !== wanted) throw new LookupTableError(`${file} holds ${values.length / 3} entries where its size needs ${wanted / 3}.`, file);
  if (from.some((least, i) => !(least < to[i]!))) throw new LookupTableError(`${file} begins where it ends.`, file);
  return { title: title || file, size, isCube, from, to, values: Float32Array.from(values) };
}

/** What a table gives for a colour: between its entries it goes in straight lines, beyond its ends it stays. */
export function lookUpColour({ size, isCube, from, to, values }: LookupTable, colour: readonly [number, number, number]): [number, number, number] {
  const at = colour.map((value, i) => Math.min(1, Math.max(0, (value - from[i]!) / (to[i]! - from[i]!))) * (size - 1));
  const low = at.map((place) => Math.min(size - 2, Math.floor(place)));
  const share = at.map((place, i) => place - low[i]!);
  const out: [number, number, number] = [0, 0, 0];
  if (!isCube) {
    for (const c of [0, 1, 2] as const) {
      const [a, b] = [values[low[c]! * 3 + c]!, values[(low[c]! + 1) * 3 + c]!];
      out[c] = a + (b - a) * share[c]!;
    }
    return out;
  }
  // The eight corners around it, each by how near it is.
  for (let corner = 0; corner < 8; corner++) {
    const step = [corner & 1, (corner >> 1) & 1, corner >> 2];
    const weight = step.reduce((product, on, i) => product * (on ? share[i]! : 1 - share[i]!), 1);
    const entry = (low[0]! + step[0]! + size * (low[1]! + step[1]! + size * (low[2]! + step[2]!))) * 3;
    for (const c of [0, 1, 2] as const) out[c] += weight * values[entry + c]!;
  }
  return out;
}
