import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LookupTableError, lookUpColour, readCube } from '../src/index.ts';

/** A cube whose entries are made by a function. */
function cube(size: number, make: (r: number, g: number, b: number) => readonly number[], head = ''): string {
  const lines: string[] = [];
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++) for (let r = 0; r < size; r++) lines.push(make(r / (size - 1), g / (size - 1), b / (size - 1)).join(' '));
  return `# made for this test\nTITLE "lamp room"\n${head}LUT_3D_SIZE ${size}\n\n${lines.join('\r\n')}\n`;
}
const share = fc.double({ min: 0, max: 1, noNaN: true });

describe('a lookup table', () => {
  it('of straight lines gives those lines between its entries', () => {
    const table = readCube(
      cube(5, (r, g, b) => [0.5 * r + 0.1, 1 - g, 0.3 * b + 0.2 * r]),
      'a.cube',
    );
    expect([table.title, table.size, table.isCube]).toEqual(['lamp room', 5, true]);
    fc.assert(
      fc.property(share, share, share, (r, g, b) => {
        const wanted = [0.5 * r + 0.1, 1 - g, 0.3 * b + 0.2 * r];
        lookUpColour(table, [r, g, b]).forEach((value, i) => expect(value).toBeCloseTo(wanted[i]!, 5));
      }),
    );
  });

  it('gives its own entries at their places, red fastest', () => {
    const table = readCube(
      cube(3, (r, g, b) => [r * r, g * g * g, b ** 4]),
      'a.cube',
    );
    expect(lookUpColour(table, [0.5, 0, 1])).toEqual([0.25, 0, 1]);
    expect(lookUpColour(table, [1, 0.5, 0])).toEqual([1, 0.125, 0]);
  });

  it('stays at its ends beyond them, wherever it begins and ends', () => {
    const table = readCube(
      cube(2, (r, g, b) => [r, g, b], 'DOMAIN_MIN -1 0 0\nDOMAIN_MAX 1 2 4\n'),
      'a.cube',
    );
    expect(lookUpColour(table, [-9, 9, 2])).toEqual([0, 1, 0.5]);
    expect(lookUpColour(table, [0, 1, 4])).toEqual([0.5, 0.5, 1]);
  });

  it('may know each channel alone', () => {
    const table = readCube('LUT_1D_SIZE 3\nLUT_1D_INPUT_RANGE 0 2\n0 0 1\n0.5 0.1 0.5\n1 1 0\n', 'line.cube');
    expect(table.isCube).toBe(false);
    lookUpColour(table, [1, 1.5, 2]).forEach((value, i) => expect(value).toBeCloseTo([0.5, 0.55, 0][i]!, 6));
  });

  it('is refused with its line where it makes no sense', () => {
    for (const [text, says] of [
      ['', 'does not say how large'],
      ['LUT_3D_SIZE 2\n0 0 0', 'holds 1 entries where its size needs 8'],
      ['LUT_1D_SIZE 2\n0 0 0\n1 1', 'Line 3 of a.cube does not hold 3 numbers'],
      ['LUT_1D_SIZE 2\n0 0 0\n1 1 x', 'Line 3'],
      ['LUT_3D_SIZE 1\n0 0 0', 'gives a size that is not used'],
      ['LUT_3D_SIZE 4000\n', 'gives a size that is not used'],
      ['LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n', 'gives a second size'],
      ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\n0 0 0\n1 1 1', 'begins where it ends'],
      ['<html>', 'does not hold 3 numbers'],
    ] as const) {
      expect(() => readCube(text, 'a.cube')).toThrow(LookupTableError);
      expect(() => readCube(text, 'a.cube')).toThrow(says);
    }
  });
});
