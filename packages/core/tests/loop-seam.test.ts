import { describe, expect, it } from 'vitest';
import { findings, FIRST, LAST, movingBrief, movingShot, noAlphaOrdered, opaque, turned, type Look } from './moving-shot.ts';
import { count } from './virtual-folder.ts';

describe('a loop', () => {
  it('is never looked for where the shot is said not to go round', () => {
    expect(findings((f) => ({ at: turned(f) }), { loop: false })).toEqual([]);
  });

  it('repeats its first frame with other noise', () => {
    expect(findings((f) => ({ at: turned(f) }))).toEqual(['loop-repeat beauty 1024']);
  });

  it('does not lead on from its last frame to its first', () => {
    expect(findings(() => ({}), { loop: true })).toEqual(['loop-jump beauty 1024']);
    // A turn of 25 frames, of which 24 were ordered.
    const whole = (f: number) => ({ at: 0.5 + 0.3 * Math.sin((2 * Math.PI * (f - FIRST)) / (LAST - FIRST + 1)) });
    expect(findings(whole, { loop: true })).toEqual([]);
    expect(findings(() => ({}))).toEqual([]);
  });

  describe('in which a part moves while the picture stands', () => {
    /** A patch of light that goes round, so many turns in the shot. */
    const goesRound =
      (turns: number, side = 10) =>
      (f: number) => {
        const angle = (2 * Math.PI * turns * (f - FIRST)) / (LAST - FIRST + 1);
        const [left, top] = [27 + 22 * Math.cos(angle), 15 + 11 * Math.sin(angle)];
        const share = (from: number, at: number) => Math.max(0, Math.min(1, at + 1 - from, from + side - at));
        const retouch = (x: number, y: number, values: number[]) => values.map((v, c) => (c === 3 ? v : v + 0.3 * share(left, x) * share(top, y)));
        return { ...opaque, at: 0.5, noise: 0.05, seed: f, retouch };
      };
    const told = (look: (f: number) => Partial<Look>) => findings(look, { ...noAlphaOrdered, loop: true });

    it.each([0.2, 0.3, 0.4, 0.6])('does not close at %f turns', (turns) => {
      expect(told(goesRound(turns))).toEqual(['loop-jump beauty 1024']);
    });

    it.each([1, 2, 5, 11])('closes at %f turns', (turns) => {
      expect(told(goesRound(turns))).toEqual([]);
      expect(told(goesRound(turns, 4))).toEqual([]);
    });

    it('says in how many parts it does not close', () => {
      const { findings: found } = count(movingShot(goesRound(0.6)), { ...movingBrief, ...noAlphaOrdered, loop: true });
      expect(found[0]!.evidence[0]!.message).toMatch(
        /^To frame 1001 \d+ of 96 parts of the picture change by half as much again as they or those beside them do/,
      );
    });
  });
});
