// How much the patches around two pixels differ, over what noise makes of it: for the filter that takes noise out.
import { sumsOfFour } from './lanes';

/** A window reaches so many pixels to the left and up, and one less to the right and down: a line of it is four vectors. */
export const REACH: i32 = 8;
export const WINDOW_LINE: usize = 64;
export const WINDOW: usize = 16 * WINDOW_LINE;
/** Pixels from one centre to the next, across and down: one vector. */
export const EVERY: i32 = 4;
/** So many centres of a line are gone through together, so that what they read stays at hand. */
export const TOGETHER: i32 = 32;

/** Pixels of a patch, which reaches three to each side. */
export const PATCH_PIXELS: f32 = 49;
/** Places of a window that are gone through together. */
const PLACES: usize = 4;
/** Bytes of what lines differ by at a place: patches of the last centre reach one vector beyond it. */
const SUMS: usize = 33 * 16;
/** Bytes of that for each place of a window, and for those that are gone through together. */
export const ALL_SUMS: usize = 256 * SUMS;
export const SOME_SUMS: usize = PLACES * SUMS;

/** What four pixels differ by from four others. @param trust one over twice their variance */
function apart(here: v128, trust: v128, there: usize): v128 {
  const difference = f32x4.sub(here, v128.load(there));
  return f32x4.mul(f32x4.mul(difference, difference), trust);
}

/**
 * Adds up what the three lines below a line of centres differ by, for each place of their windows: `compare` needs it of the
 * line of centres above.
 *
 * @param guide what patches are compared by, and `trust` one over twice its variance: four pixels before the first centre
 */
export function below(guide: usize, trust: usize, line: usize, centres: i32, sums: usize): void {
  const end = usize(centres + 1) << 4;
  for (let down = -REACH; down < REACH; down++) {
    for (let across = -REACH; across < REACH; across++, sums += SUMS) {
      const away = down * i32(line) + (across << 2);
      for (let i: usize = 0; i < end; i += 16) {
        const here = guide + line + i;
        const trusted = trust + line + i;
        let sum = apart(v128.load(here), v128.load(trusted), here + away);
        sum = f32x4.add(sum, apart(v128.load(here + line), v128.load(trusted + line), here + line + away));
        sum = f32x4.add(sum, apart(v128.load(here + 2 * line), v128.load(trusted + 2 * line), here + 2 * line + away));
        v128.store(sums + i, sum);
      }
    }
  }
}

/**
 * Sums of what patches around each of some centres and around each pixel of their windows differ by.
 *
 * @param guide, trust as for `below`
 * @param sums what `below` or this made of the line of centres above; that of this line comes out
 * @param some room for SOME_SUMS bytes
 * @param distances one window a centre comes out
 */
export function compare(guide: usize, trust: usize, line: usize, centres: i32, sums: usize, some: usize, distances: usize): void {
  const end = usize(centres + 1) << 4;
  for (let down = -REACH; down < REACH; down++) {
    for (let across = -REACH; across < REACH; across += i32(PLACES), sums += SOME_SUMS, distances += PLACES << 2) {
      const away = down * i32(line) + (across << 2);
      for (let i: usize = 0; i < end; i += 16) {
        let here = guide + i;
        let trusted = v128.load(trust + i);
        let own = v128.load(here);
        let there = here + away;
        const middle0 = apart(own, trusted, there);
        const middle1 = apart(own, trusted, there + 4);
        const middle2 = apart(own, trusted, there + 8);
        const middle3 = apart(own, trusted, there + 12);
        here += line;
        there += line;
        trusted = v128.load(trust + i + line);
        own = v128.load(here);
        let sum0 = apart(own, trusted, there);
        let sum1 = apart(own, trusted, there + 4);
        let sum2 = apart(own, trusted, there + 8);
        let sum3 = apart(own, trusted, there + 12);
        for (let next = 2 * line; next <= 3 * line; next += line) {
          here += line;
          there += line;
          trusted = v128.load(trust + i + next);
          own = v128.load(here);
          sum0 = f32x4.add(sum0, apart(own, trusted, there));
          sum1 = f32x4.add(sum1, apart(own, trusted, there + 4));
          sum2 = f32x4.add(sum2, apart(own, trusted, there + 8));
          sum3 = f32x4.add(sum3, apart(own, trusted, there + 12));
        }
        exchange(sums + i, sum0, middle0, some + i);
        exchange(sums + i + SUMS, sum1, middle1, some + i + SUMS);
        exchange(sums + i + 2 * SUMS, sum2, middle2, some + i + 2 * SUMS);
        exchange(sums + i + 3 * SUMS, sum3, middle3, some + i + 3 * SUMS);
      }
      // One centre a vector, and seven numbers around each: at four places together.
      for (let i = 0, at = some + 4, out = distances; i < centres; i++, at += 16, out += WINDOW) {
        const a = aroundCentre(at);
        const b = aroundCentre(at + SUMS);
        const c = aroundCentre(at + 2 * SUMS);
        const d = aroundCentre(at + 3 * SUMS);
        v128.store(out, sumsOfFour(a, b, c, d));
      }
    }
  }
}

/** Puts sums of the lines below in the place of those above, and all of a patch's lines together. */
function exchange(sums: usize, below: v128, middle: v128, all: usize): void {
  v128.store(all, f32x4.add(f32x4.add(v128.load(sums), middle), below));
  v128.store(sums, below);
}

/** Seven numbers, in four lanes. */
function aroundCentre(at: usize): v128 {
  return f32x4.add(v128.load(at), v128.and(v128.load(at + 16), i32x4(-1, -1, -1, 0)));
}
