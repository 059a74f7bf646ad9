import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  estimateTimeLeft,
  formatFrameRange,
  formatInOrder,
  FrameSet,
  frameOrders,
  orderShares,
  parseFrameRange,
  proveSplit,
  splitAsText,
  splitAtBorders,
  SplitError,
  splitFrames,
  splitRows,
  splitRules,
  stallAfter,
  workOutBorders,
  writeCsv,
  type SplitMachine,
} from '../src/index.ts';

const names = ['bowline', 'reef', 'sheetbend', 'clove', 'splice', 'hitch'];
const machines: fc.Arbitrary<SplitMachine[]> = fc
  .array(fc.double({ min: 0.05, max: 20, noNaN: true }), { minLength: 1, maxLength: names.length })
  .map((speeds) => speeds.map((speed, i) => ({ name: names[i], speed })));
const frameSets = fc.array(fc.integer({ min: -200, max: 400 }), { maxLength: 300 }).map((numbers) => FrameSet.of(numbers));

describe('a split', () => {
  it('gives every frame to one machine, once, whatever the rule and the order', () => {
    fc.assert(
      fc.property(
        frameSets,
        machines,
        fc.constantFrom(...splitRules),
        fc.integer({ min: 1, max: 12 }),
        fc.constantFrom(...frameOrders),
        (frames, all, rule, chunk, order) => {
          const shares = orderShares(splitFrames(frames, all, rule, chunk), order);
          const proof = proveSplit(frames, shares);
          expect(proof).toMatchObject({ holds: true, ordered: frames.size, given: frames.size });
          expect(shares.map(({ machine }) => machine)).toEqual(all.map(({ name }) => name));
        },
      ),
    );
  });

  it('is even to a frame', () => {
    fc.assert(
      fc.property(frameSets, machines, (frames, all) => {
        const sizes = splitFrames(frames, all, 'even').map((share) => share.frames.length);
        expect(Math.max(...sizes) - Math.min(...sizes)).toBeLessThanOrEqual(1);
      }),
    );
  });

  it('by speed is within a frame of the speeds', () => {
    fc.assert(
      fc.property(frameSets, machines, (frames, all) => {
        const sum = all.reduce((total, { speed }) => total + speed, 0);
        splitFrames(frames, all, 'speed').forEach((share, i) => expect(Math.abs(share.frames.length - (frames.size * all[i].speed) / sum)).toBeLessThan(1));
      }),
    );
  });

  it('begins where the machine before it ended', () => {
    const two = ['bowline', 'reef'].map((name) => ({ name, speed: 1 }));
    expect(splitFrames(parseFrameRange('0-90'), two, 'even').map(({ frames }) => formatFrameRange(FrameSet.of(frames)))).toEqual(['0-45', '46-90']);
    expect(splitFrames(parseFrameRange('1-10'), two, 'interleaved').map(({ frames }) => frames.join(' '))).toEqual(['1 3 5 7 9', '2 4 6 8 10']);
    expect(splitFrames(parseFrameRange('1-10'), two, 'interleaved', 4).map(({ frames }) => frames.join(' '))).toEqual(['1 2 3 4 9 10', '5 6 7 8']);
  });

  it('is cut by hand at any border, and proved all the same', () => {
    const frames = parseFrameRange('1-10');
    const three = names.slice(0, 3).map((name) => ({ name, speed: 1 }));
    expect(proveSplit(frames, splitAtBorders(frames, three, [0, 1, 9, 10])).holds).toBe(true);
    expect(splitAtBorders(frames, three, [0, 0, 10, 10]).map((share) => share.frames.length)).toEqual([0, 10, 0]);
    expect(workOutBorders(7, [1, 1, 1])).toEqual([0, 3, 5, 7]);
  });

  it('needs a machine', () => {
    expect(() => splitFrames(parseFrameRange('1-2'), [], 'even')).toThrow(SplitError);
  });

  it('that is wrong is shown to be', () => {
    const proof = proveSplit(parseFrameRange('1-5'), [
      { machine: 'bowline', frames: [1, 2, 3] },
      { machine: 'reef', frames: [3, 5, 9] },
    ]);
    expect(proof.holds).toBe(false);
    expect([proof.twice, proof.left, proof.beyond].map(formatFrameRange)).toEqual(['3', '4', '9']);
  });

  it('is rendered from its ends and its middle first where scouts go ahead', () => {
    const [share] = orderShares(splitFrames(parseFrameRange('1-17'), [{ name: 'reef', speed: 1 }], 'even'), 'scout', 4);
    expect(share.frames.slice(0, 3)).toEqual([1, 17, 9]);
  });
});

describe('a split on paper', () => {
  const shares = splitFrames(
    parseFrameRange('1001-1096'),
    names.slice(0, 3).map((name) => ({ name, speed: 1 })),
    'even',
  );
  it('is a line a machine', () => {
    expect(splitAsText(shares)).toBe('bowline 1001-1032\nreef 1033-1064\nsheetbend 1065-1096\n');
    expect(writeCsv(splitRows(shares)).split('\r\n')[1]).toBe('bowline,32,1001-1032,1001-1032');
  });
  it('keeps the order of the frames', () => {
    expect(formatInOrder([1, 17, 9, 2, 3, 4, 5])).toBe('1 17 9 2-5');
    expect(formatInOrder([])).toBe('');
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: -50, max: 50 })), (frames) => {
        const read = formatInOrder(frames)
          .split(' ')
          .filter((part) => part !== '')
          .flatMap((part) => [...parseFrameRange(part)]);
        expect(read).toEqual(frames);
      }),
    );
  });
});

describe('time left', () => {
  const pace = (machine: string, seconds: number[], waiting: number, inHand: number | null = null) => ({ machine, seconds, waiting, inHand });

  it('is unknown before a frame is done', () => {
    expect(estimateTimeLeft([pace('reef', [], 10)])).toBeNull();
  });
  it('is that of the slowest machine, by its middle frame', () => {
    const left = estimateTimeLeft([pace('bowline', [10, 10, 10, 90], 5), pace('reef', [20, 20, 20], 5, 15)])!;
    expect(left.seconds).toBe(105);
    expect(left.low).toBeLessThanOrEqual(left.seconds);
    expect(left.high).toBeGreaterThanOrEqual(left.seconds);
  });
  it('is nothing when nothing is left', () => {
    expect(estimateTimeLeft([pace('reef', [3, 4, 5], 0)])).toEqual({ seconds: 0, low: 0, high: 0 });
  });
  it('lies between its bounds nine times in ten', () => {
    let state = 1;
    const uniform = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
    let inside = 0;
    for (let trial = 0; trial < 400; trial++) {
      const frames = Array.from({ length: 72 }, () => 8 + 4 * uniform());
      const left = estimateTimeLeft([pace('reef', frames.slice(0, 12), 60)])!;
      const real = frames.slice(12).reduce((sum, seconds) => sum + seconds, 0);
      if (real >= left.low && real <= left.high) inside++;
    }
    expect(inside / 400).toBeGreaterThan(0.8);
  });
  it('is called stuck only much later than a frame takes', () => {
    expect(stallAfter([])).toBe(Infinity);
    expect(stallAfter([1, 1, 1])).toBe(20);
    expect(stallAfter([60, 61, 59, 60])).toBeGreaterThan(200);
  });
});
