// One scan of a JPEG (ITU-T T.81): entropy-coded bits become coefficients, sequential (annex F) or a step of a
// progression (annex G). What a scan is stands in a table of numbers, which ../src/kernels/jpeg-scan.ts writes.

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

/** A table of codes: 512 entries of 16 bits by the next nine bits (value times 16 plus length, 0 where longer), then
 *  first, count and offset of each length from 0 to 16, of 32 bits, then the values. */
const CODE_FIRST: usize = 1024;
const CODE_COUNT: usize = 1024 + 68;
const CODE_OFFSET: usize = 1024 + 136;
const CODE_VALUES: usize = 1024 + 204;

let bytes: usize = 0;
let end: i32 = 0;
let position: i32 = 0;
/** The lowest `held` bits are those to come; the lowest `missing` of them were made up. */
let buffer: u64 = 0;
let held: i32 = 0;
let missing: i32 = 0;
let damage: i32 = 0;
let endOfBand: i32 = 0;
const predictions = memory.data(4 * 4, 16);

function fill(): void {
  while (held <= 48) {
    let byte: u64 = 0;
    if (position >= end) missing += 8;
    else {
      byte = u64(load<u8>(bytes + usize(position)));
      if (byte != 0xff) position++;
      else if (position + 1 < end && load<u8>(bytes + usize(position + 1)) == 0) position += 2;
      else {
        // A marker: nothing comes behind it.
        byte = 0;
        missing += 8;
      }
    }
    buffer = (buffer << 8) | byte;
    held += 8;
  }
}

function take(count: i32): i32 {
  if (count == 0) return 0;
  if (held < count) fill();
  held -= count;
  return i32(buffer >> held) & ((1 << count) - 1);
}

/** Section F.2.2.1, EXTEND. */
function signed(count: i32): i32 {
  const value = take(count);
  return value < 1 << (count - 1) ? value - (1 << count) + 1 : value;
}

function symbol(table: usize): i32 {
  if (held < 16) fill();
  const entry = i32(load<u16>(table + 2 * (usize(buffer >> (held - 9)) & 511)));
  if (entry != 0) {
    held -= entry & 15;
    return entry >> 4;
  }
  for (let length = 10; length <= 16; length++) {
    const at = table + 4 * usize(length);
    const place = (i32(buffer >> (held - length)) & ((1 << length) - 1)) - load<i32>(at, CODE_FIRST);
    if (place >= 0 && place < load<i32>(at, CODE_COUNT)) {
      held -= length;
      return i32(load<u8>(table + CODE_VALUES + usize(load<i32>(at, CODE_OFFSET) + place)));
    }
  }
  damage = NO_CODE;
  return 0;
}

/** Whole bytes that were read ahead and nobody asked for; a scan may be filled up with ones, or with zeros. */
function unused(): i32 {
  let count = 0;
  for (let at = missing; at + 8 <= held; at += 8) {
    const byte = (buffer >> at) & 0xff;
    if (byte != 0 && byte != 0xff) count++;
  }
  return count;
}

function isRestart(marker: u32): bool {
  return marker >= 0xd0 && marker <= 0xd7;
}

/** Goes on behind the restart marker that must come now. */
function restart(number: u32): void {
  const ahead = unused();
  buffer = 0;
  held = 0;
  missing = 0;
  if (ahead > 0) {
    damage = BEFORE_RESTART;
    return;
  }
  const marker: u32 = position + 1 < end ? load<u8>(bytes + usize(position + 1)) : 0;
  if (position >= end || load<u8>(bytes + usize(position)) != 0xff || !isRestart(marker) || (marker & 7) != number) {
    damage = NO_RESTART;
    return;
  }
  position += 2;
  endOfBand = 0;
  for (let i: usize = 0; i < 16; i += 4) store<i32>(predictions + i, 0);
}

/** A block's mean: what the scan adds to the one before (section F.2.2.1). */
function nextMean(index: i32, dc: usize): i32 {
  const size = symbol(dc);
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
  if (damage == IMPOSSIBLE) return;
  store<i16>(at, i16(mean));
  for (let k = 1; k < 64;) {
    const code = symbol(ac);
    const length = code & 15;
    if (length == 0) {
      if (code != 0xf0) break;
      k += 16;
      if (k > 64) damage = IMPOSSIBLE;
      continue;
    }
    k += code >> 4;
    if (k > 63) {
      damage = IMPOSSIBLE;
      return;
    }
    store<i16>(at + 2 * usize(k++), i16(signed(length)));
  }
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
    const code = symbol(ac);
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
    store<i16>(at + 2 * usize(k++), i16(signed(length) << low));
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
      const code = symbol(ac);
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
        const place = at + 2 * usize(k);
        if (load<i16>(place) != 0) refine(place, step);
        else if (run-- <= 0) break;
        k++;
      }
      if (k > last) {
        damage = IMPOSSIBLE;
        return;
      }
      if (value != 0) store<i16>(at + 2 * usize(k), i16(value));
      k++;
    }
  }
  if (endOfBand > 0) {
    for (; k <= last; k++) {
      const place = at + 2 * usize(k);
      if (load<i16>(place) != 0) refine(place, step);
    }
    endOfBand--;
  }
}

/** Bytes of pixel data that nobody asked for, up to the next marker; zeros and fill bytes do not count. */
function leftOver(): i32 {
  let count = unused();
  while (position < end - 1) {
    const byte = load<u8>(bytes + usize(position));
    const next = load<u8>(bytes + usize(position + 1));
    if (byte == 0xff && next != 0 && next != 0xff && !isRestart(next)) break;
    if (byte != 0 && byte != 0xff) count++;
    position++;
  }
  return count;
}

/**
 * Decodes one scan.
 *
 * @param data the file, up to END in the table
 * @param table what the scan is; where it stopped comes back in it
 * @returns 0, or what is wrong
 */
export function decodeScan(data: usize, table: usize): i32 {
  bytes = data;
  end = load<i32>(table + 4 * END);
  position = load<i32>(table + 4 * POSITION);
  buffer = 0;
  held = 0;
  missing = 0;
  damage = 0;
  endOfBand = 0;
  for (let i: usize = 0; i < 16; i += 4) store<i32>(predictions + i, 0);
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
    if (damage == 0 && missing > held) damage = PAST_END;
    if (damage != 0) break;
    if (++column == across) {
      column = 0;
      row++;
    }
  }
  store<i32>(table + 4 * UNIT, unit);
  store<i32>(table + 4 * LEFT, damage == 0 ? leftOver() : 0);
  store<i32>(table + 4 * POSITION, position);
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
