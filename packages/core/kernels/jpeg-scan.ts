// One scan of a JPEG (ITU-T T.81): entropy-coded bits become coefficients, sequential (annex F) or a step of a
// progression (annex G). What a scan is stands in a table of numbers, which ../src/kernels/jpeg-scan.ts writes.
import { beginBits, bitPosition, isPastEnd, leftOver, NO_SYMBOL, passRestart, readBlock, signed, symbol, take } from './jpeg-bits';
import { zigzag } from './jpeg-cosine';

/** Places in the table: of the scan, of each of its components behind that, and of what comes out of it. */
const COMPONENTS = 0;
const FIRST = 1;
const LAST = 2;
const HIGH = 3;
const LOW = 4;
const RESTART = 5;
const PROGRESSIVE = 6;
const END = 7;
const POSITION = 8;
const UNIT = 9;
const UNITS = 10;
const LEFT = 11;
const PER_SCAN = 12;

const DATA = 0;
const STRIDE = 1;
const ACROSS = 2;
const DOWN = 3;
const BLOCKS_ACROSS = 4;
// The fifth is how many there are down, which the number of units says.
const DC = 6;
const AC = 7;
const PER_COMPONENT = 8;

/** What can be wrong, as results other than 0. */
const NO_CODE = 1;
const IMPOSSIBLE = 2;
const PAST_END = 3;
const NO_RESTART = 4;
const BEFORE_RESTART = 5;

let damage: i32 = 0;
let endOfBand: i32 = 0;
const predictions = memory.data(4 * 4, 16);

/** Each restart begins anew. */
function forget(): void {
  endOfBand = 0;
  for (let i: usize = 0; i < 16; i += 4) store<i32>(predictions + i, 0);
}

/** Goes on behind the restart marker that must come now. */
function restart(number: u32): void {
  const wrong = passRestart(number);
  if (wrong == 0) forget();
  else damage = wrong == 1 ? BEFORE_RESTART : NO_RESTART;
}

/** The next code's value; 0 and damage where there is none. */
function valueOf(table: usize): i32 {
  const value = symbol(table);
  if (value != NO_SYMBOL) return value;
  damage = NO_CODE;
  return 0;
}

/** A block's mean: what the scan adds to the one before (section F.2.2.1). */
function nextMean(index: i32, dc: usize): i32 {
  const size = valueOf(dc);
  if (size > 15) {
    damage = IMPOSSIBLE;
    return 0;
  }
  const place = predictions + 4 * usize(index);
  const mean = load<i32>(place) + (size == 0 ? 0 : signed(size));
  store<i32>(place, mean);
  return mean;
}

/** Section F.2.2. */
function sequential(at: usize, index: i32, dc: usize, ac: usize): void {
  const mean = nextMean(index, dc);
  if (damage != 0) return;
  store<i16>(at, i16(mean));
  const wrong = readBlock(at, ac, zigzag);
  if (wrong != 0) damage = wrong == NO_SYMBOL ? NO_CODE : IMPOSSIBLE;
}

/** The mean, first or one bit more of it (section G.1.2.1). */
function meanOf(at: usize, index: i32, dc: usize, high: i32, low: i32): void {
  if (high > 0) {
    store<i16>(at, load<i16>(at) | i16(take(1) << low));
    return;
  }
  const mean = nextMean(index, dc);
  if (damage == IMPOSSIBLE) return;
  store<i16>(at, i16(mean << low));
}

/** First scan of a band of frequencies (section G.1.2.2). */
function band(at: usize, ac: usize, first: i32, last: i32, low: i32): void {
  if (endOfBand > 0) {
    endOfBand--;
    return;
  }
  for (let k = first; k <= last;) {
    const code = valueOf(ac);
    const run = code >> 4;
    const length = code & 15;
    if (length == 0) {
      if (run < 15) {
        endOfBand = (1 << run) + take(run) - 1;
        return;
      }
      k += 16;
      if (k > last + 1) damage = IMPOSSIBLE;
      continue;
    }
    k += run;
    if (k > last) {
      damage = IMPOSSIBLE;
      return;
    }
    store<i16>(at + 2 * usize(load<u8>(zigzag + k++)), i16(signed(length) << low));
  }
}

function refine(at: usize, step: i32): void {
  const value = i32(load<i16>(at));
  if (take(1) == 1 && (value & step) == 0) store<i16>(at, i16(value + (value > 0 ? step : -step)));
}

/** Further bits of a band (section G.1.2.3). */
function refineBand(at: usize, ac: usize, first: i32, last: i32, low: i32): void {
  const step = 1 << low;
  let k = first;
  if (endOfBand == 0) {
    while (k <= last) {
      const code = valueOf(ac);
      let run = code >> 4;
      let value = 0;
      if ((code & 15) == 0) {
        if (run < 15) {
          endOfBand = (1 << run) + take(run);
          break;
        }
      } else if ((code & 15) == 1) value = take(1) == 1 ? step : -step;
      else damage = IMPOSSIBLE;
      if (damage != 0) return;
      // The value's place is behind so many zeros; a run of sixteen ends with its last one.
      while (k <= last) {
        const place = at + 2 * usize(load<u8>(zigzag + k));
        if (load<i16>(place) != 0) refine(place, step);
        else if (run-- <= 0) break;
        k++;
      }
      if (k > last) {
        damage = IMPOSSIBLE;
        return;
      }
      if (value != 0) store<i16>(at + 2 * usize(load<u8>(zigzag + k)), i16(value));
      k++;
    }
  }
  if (endOfBand > 0) {
    for (; k <= last; k++) {
      const place = at + 2 * usize(load<u8>(zigzag + k));
      if (load<i16>(place) != 0) refine(place, step);
    }
    endOfBand--;
  }
}

/**
 * Decodes one scan.
 *
 * @param data the file, up to END in the table
 * @param table what the scan is; where it stopped comes back in it
 * @returns 0, or what is wrong
 */
export function decodeScan(data: usize, table: usize): i32 {
  beginBits(data, load<i32>(table + 4 * POSITION), load<i32>(table + 4 * END));
  damage = 0;
  forget();
  const components = load<i32>(table + 4 * COMPONENTS);
  const interval = load<i32>(table + 4 * RESTART);
  const units = load<i32>(table + 4 * UNITS);
  const own = table + 4 * PER_SCAN;
  // By itself a component has its own blocks; several share units of all (section A.2).
  const alone = components == 1;
  const across = alone ? load<i32>(own + 4 * BLOCKS_ACROSS) : load<i32>(own + 4 * STRIDE) / load<i32>(own + 4 * ACROSS);
  let unit = 0;
  let column = 0;
  let row = 0;
  for (; unit < units; unit++) {
    if (interval > 0 && unit > 0 && unit % interval == 0) restart(u32(unit / interval - 1) & 7);
    if (alone) decodeBlock(table, own, 0, row, column);
    else {
      for (let index = 0; index < components && damage == 0; index++) {
        const component = own + 4 * usize(index * PER_COMPONENT);
        const wide = load<i32>(component + 4 * ACROSS);
        const high = load<i32>(component + 4 * DOWN);
        for (let y = 0; y < high; y++) for (let x = 0; x < wide; x++) decodeBlock(table, component, index, row * high + y, column * wide + x);
      }
    }
    if (damage == 0 && isPastEnd()) damage = PAST_END;
    if (damage != 0) break;
    if (++column == across) {
      column = 0;
      row++;
    }
  }
  store<i32>(table + 4 * UNIT, unit);
  store<i32>(table + 4 * LEFT, damage == 0 ? leftOver() : 0);
  store<i32>(table + 4 * POSITION, bitPosition());
  return damage;
}

function decodeBlock(table: usize, component: usize, index: i32, row: i32, column: i32): void {
  if (damage != 0) return;
  const at = usize(load<i32>(component + 4 * DATA)) + 128 * usize(row * load<i32>(component + 4 * STRIDE) + column);
  const dc = usize(load<i32>(component + 4 * DC));
  const ac = usize(load<i32>(component + 4 * AC));
  if (!load<i32>(table + 4 * PROGRESSIVE)) return sequential(at, index, dc, ac);
  const first = load<i32>(table + 4 * FIRST);
  const high = load<i32>(table + 4 * HIGH);
  const low = load<i32>(table + 4 * LOW);
  if (first == 0) return meanOf(at, index, dc, high, low);
  const last = load<i32>(table + 4 * LAST);
  if (high == 0) band(at, ac, first, last, low);
  else refineBand(at, ac, first, last, low);
}
