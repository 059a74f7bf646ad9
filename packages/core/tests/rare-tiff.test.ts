import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inspectFrameFile, memorySource } from '../src/index.ts';
import { tools } from './tools.ts';
import { decode, le16, le32, valuesOf } from './by-hand.ts';

describe('TIFF', () => {
  /** A file of one strip; fields as tag, type and values of 16 or 32 bits. */
  function tiff(fields: readonly (readonly [tag: number, type: 3 | 4, ...values: number[]])[], pixels: readonly number[]): Uint8Array {
    const sizes = { 3: 2, 4: 4 };
    const all = [...fields, [273, 4, 8] as const, [279, 4, pixels.length] as const].sort((a, b) => a[0] - b[0]);
    const directory = 8 + pixels.length + (pixels.length % 2);
    let behind = directory + 2 + all.length * 12 + 4;
    const entries: number[] = [];
    const values: number[] = [];
    for (const [tag, type, ...list] of all) {
      const bytes = type === 3 ? le16(...list) : le32(...list);
      entries.push(...le16(tag, type), ...le32(list.length));
      if (list.length * sizes[type] <= 4) entries.push(...bytes, ...new Array<number>(4 - bytes.length).fill(0));
      else {
        entries.push(...le32(behind));
        values.push(...bytes);
        behind += bytes.length;
      }
    }
    const padding = pixels.length % 2 === 1 ? [0] : [];
    return Uint8Array.from([0x49, 0x49, 42, 0, ...le32(directory), ...pixels, ...padding, ...le16(all.length), ...entries, ...le32(0), ...values]);
  }

  const size = (width: number, height: number, bits: number, photometric: number) =>
    [
      [256, 3, width],
      [257, 3, height],
      [258, 3, bits],
      [259, 3, 1],
      [262, 3, photometric],
      [278, 3, height],
    ] as const;

  it.each([
    [1, [0b10100000], [255, 0, 255]],
    [2, [0b00011011], [0, 85, 170]],
    [4, [0x0f, 0x80], [0, 255, 136]],
  ])('brings %i bits to the full scale', (bits, bytes, expected) => {
    expect(valuesOf(decode('tif', tiff(size(3, 1, bits, 1), bytes))[0])).toEqual(expected);
  });

  it('turns round where white is zero', () => {
    expect(valuesOf(decode('tif', tiff(size(2, 1, 8, 0), [0, 200]))[0])).toEqual([255, 55]);
  });

  it('looks a palette up', () => {
    const map = Array.from({ length: 16 * 3 }, (_, i) => i * 256);
    const planes = decode('tif', tiff([...size(2, 1, 4, 3), [320, 3, ...map]], [0x3f]));
    expect(planes.map(valuesOf)).toEqual([
      [3, 15],
      [19, 31],
      [35, 47],
    ]);
  });

  it('says of alpha how the file means it', () => {
    const fields = [...size(1, 1, 8, 2), [277, 3, 4], [338, 3, 1]] as const;
    const bytes = tiff(
      fields.map((field) => (field[0] === 258 ? ([258, 3, 8, 8, 8, 8] as const) : field)),
      [1, 2, 3, 4],
    );
    expect(inspectFrameFile(memorySource(bytes), 'a.tif', 'headers', tools).facts.header).toMatchObject({ alphaKind: 'premultiplied' });
    expect(decode('tif', bytes).map(({ channel }) => channel)).toEqual(['R', 'G', 'B', 'A']);
  });

  it('reads what LZW packed, through clearing and growing codes', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 6000 }), (values) => {
        const fields = size(values.length, 1, 8, 1).map((field) => (field[0] === 259 ? ([259, 3, 5] as const) : field));
        expect(valuesOf(decode('tif', tiff(fields, packLzw(values)))[0])).toEqual(values);
      }),
      { numRuns: 30 },
    );
  });

  it('takes a deflated block that holds more than its rows need', () => {
    const fields = size(2, 1, 8, 1).map((field) => (field[0] === 259 ? ([259, 3, 8] as const) : field));
    expect(valuesOf(decode('tif', tiff(fields, [...tools.deflate(Uint8Array.of(7, 9, ...new Array<number>(500).fill(1)))]))[0])).toEqual([7, 9]);
    // Without end, it is a trap and not a picture.
    const trap = [...tools.deflate(new Uint8Array(10_000_000))];
    expect(inspectFrameFile(memorySource(tiff(fields, trap)), 'a.tif', 'full', tools).facts.problem?.code).toBe('corrupt');
  });

  it('does not call LZW of before version 6 broken', () => {
    const fields = size(2, 1, 8, 1).map((field) => (field[0] === 259 ? ([259, 3, 5] as const) : field));
    // 256, 7, 9, 257 in nine bits each, the lowest bit first.
    const bits = [256, 7, 9, 257].flatMap((code) => Array.from({ length: 9 }, (_, b) => (code >> b) & 1));
    const bytes = Array.from({ length: 5 }, (_, i) => bits.slice(i * 8, i * 8 + 8).reduce((byte, bit, b) => byte | (bit << b), 0));
    const { facts } = inspectFrameFile(memorySource(tiff(fields, bytes)), 'a.tif', 'full', tools);
    expect(facts).toMatchObject({ problem: null, notExamined: expect.stringContaining('LZW as it was before version 6') });
  });

  it('cannot look into what was packed with something else, and does not call it broken', () => {
    const fields = size(2, 1, 8, 1).map((field) => (field[0] === 259 ? ([259, 3, 50000] as const) : field));
    const { facts } = inspectFrameFile(memorySource(tiff(fields, [1, 2, 3])), 'a.tif', 'full', tools);
    expect(facts).toMatchObject({ problem: null, notExamined: expect.stringContaining('zstd') });
  });
});

/** TIFF's LZW (section 13), as an encoder writes it: codes grow one early, the table is cleared before it is full. */
function packLzw(values: readonly number[]): number[] {
  const bits: number[] = [];
  let width = 9;
  const put = (code: number) => {
    for (let b = width - 1; b >= 0; b--) bits.push((code >> b) & 1);
  };
  let table = new Map<string, number>();
  let next = 258;
  const clear = () => {
    put(256);
    table = new Map();
    next = 258;
    width = 9;
  };
  const codeOf = (run: readonly number[]) => (run.length === 1 ? run[0] : table.get(run.join())!);
  clear();
  let run: number[] = [];
  for (const value of values) {
    const longer = [...run, value];
    if (longer.length === 1 || table.has(longer.join())) {
      run = longer;
      continue;
    }
    put(codeOf(run));
    table.set(longer.join(), next++);
    if (next + 1 > 1 << width) width++;
    if (next === 4094) clear();
    run = [value];
  }
  put(codeOf(run));
  next++;
  if (next + 1 > 1 << width) width++;
  put(257);
  while (bits.length % 8 !== 0) bits.push(0);
  return Array.from({ length: bits.length / 8 }, (_, i) => bits.slice(i * 8, i * 8 + 8).reduce((byte, bit) => byte * 2 + bit, 0));
}
