const SYMBOLS = 65537;
const HEADER_BYTES = 20;
const SHORT_RUN = 59;
const LONG_RUN = 63;
const LONGEST_RUN_OF_NONE = 255 + 2 + LONG_RUN - SHORT_RUN;
const SHORTEST_LONG = 2 + LONG_RUN - SHORT_RUN;
/** How often a value may be repeated by one run. */
const MOST_REPEATS = 255;

/** So many bits are taken at a time beside up to seven that wait. */
const AT_ONCE = 24;

/** Writes bits one behind the other, the highest first. */
class BitWriter {
  private bytes = new Uint8Array(1 << 16);
  private length = 0;
  private held = 0;
  private buffer = 0;

  /** Up to 48 bits. */
  put(value: number, count: number): void {
    if (count > AT_ONCE) {
      this.put(Math.floor(value / 2 ** AT_ONCE), count - AT_ONCE);
      this.put(value % 2 ** AT_ONCE, AT_ONCE);
      return;
    }
    this.buffer = (this.buffer << count) | value;
    this.held += count;
    if (this.length + 4 > this.bytes.length) {
      const larger = new Uint8Array(2 * this.bytes.length);
      larger.set(this.bytes);
      this.bytes = larger;
    }
    while (this.held >= 8) {
      this.held -= 8;
      this.bytes[this.length++] = this.buffer >> this.held;
    }
  }

  get bits(): number {
    return this.length * 8 + this.held;
  }

  finish(): Uint8Array {
    if (this.held > 0) this.put(0, 8 - this.held);
    return this.bytes.subarray(0, this.length);
  }
}

/** The inverse of unpackHuffman: values of 16 bits, runs of one counted where that is shorter. */
export function packHuffman(values: Uint16Array): Uint8Array {
  if (values.length === 0) return new Uint8Array(0);
  const counts = new Uint32Array(SYMBOLS);
  let [lowest, highest] = [SYMBOLS, 0];
  for (const value of values) {
    counts[value]!++;
    if (value < lowest) lowest = value;
    if (value > highest) highest = value;
  }
  // The symbol behind the highest stands for "the value before, n times more".
  const run = highest + 1;
  counts[run] = 1;
  const lengths = codeLengths(counts, lowest, run);
  const codes = canonicalCodes(lengths, lowest, run);
  const table = new BitWriter();
  writeLengths(table, lengths, lowest, run);
  const data = new BitWriter();
  for (let i = 0; i < values.length;) {
    const value = values[i]!;
    let repeats = 0;
    while (i + repeats + 1 < values.length && repeats < MOST_REPEATS && values[i + repeats + 1] === value) repeats++;
    data.put(codes[value]!, lengths[value]!);
    if (lengths[run]! + 8 < lengths[value]! * repeats) {
      data.put(codes[run]!, lengths[run]!);
      data.put(repeats, 8);
    } else for (let r = 0; r < repeats; r++) data.put(codes[value]!, lengths[value]!);
    i += repeats + 1;
  }
  const bits = data.bits;
  const [tableBytes, dataBytes] = [table.finish(), data.finish()];
  const out = new Uint8Array(HEADER_BYTES + tableBytes.length + dataBytes.length);
  const view = new DataView(out.buffer);
  [lowest, run, tableBytes.length, bits, 0].forEach((value, i) => view.setUint32(4 * i, value, true));
  out.set(tableBytes, HEADER_BYTES);
  out.set(dataBytes, HEADER_BYTES + tableBytes.length);
  return out;
}

/** Bits of each symbol's code (D. A. Huffman, "A Method for the Construction of Minimum-Redundancy Codes", 1952), by two queues in order of weight. */
function codeLengths(counts: Uint32Array, lowest: number, highest: number): Uint8Array {
  const leaves: number[] = [];
  for (let symbol = lowest; symbol <= highest; symbol++) if (counts[symbol]! > 0) leaves.push(symbol);
  leaves.sort((a, b) => counts[a]! - counts[b]! || a - b);
  const lengths = new Uint8Array(SYMBOLS);
  const weights = leaves.map((symbol) => counts[symbol]!);
  const parents = new Int32Array(2 * leaves.length);
  let [leaf, node] = [0, leaves.length];
  const lightest = () => (leaf < leaves.length && (node >= weights.length || weights[leaf]! <= weights[node]!) ? leaf++ : node++);
  while (weights.length < 2 * leaves.length - 1) {
    const [a, b] = [lightest(), lightest()];
    parents[a] = parents[b] = weights.length;
    weights.push(weights[a]! + weights[b]!);
  }
  const depths = new Uint8Array(weights.length);
  for (let i = weights.length - 2; i >= 0; i--) {
    depths[i] = depths[parents[i]!]! + 1;
    if (i < leaves.length) lengths[leaves[i]!] = depths[i]!;
  }
  return lengths;
}

/** The longer codes are the smaller numbers; of one length they go up with the symbols. */
function canonicalCodes(lengths: Uint8Array, lowest: number, highest: number): Float64Array {
  const LONGEST = 58;
  const count = new Float64Array(LONGEST + 2);
  for (let symbol = lowest; symbol <= highest; symbol++) count[lengths[symbol]!]!++;
  const next = new Float64Array(LONGEST + 2);
  let code = 0;
  for (let length = LONGEST; length > 0; length--) {
    next[length] = code;
    code = Math.floor((code + count[length]!) / 2);
  }
  const codes = new Float64Array(SYMBOLS);
  for (let symbol = lowest; symbol <= highest; symbol++) if (lengths[symbol]! > 0) codes[symbol] = next[lengths[symbol]!]!++;
  return codes;
}

function writeLengths(out: BitWriter, lengths: Uint8Array, lowest: number, highest: number): void {
  for (let symbol = lowest; symbol <= highest;) {
    let none = 0;
    while (symbol + none <= highest && none < LONGEST_RUN_OF_NONE && lengths[symbol + none] === 0) none++;
    if (none >= SHORTEST_LONG) {
      out.put(LONG_RUN, 6);
      out.put(none - SHORTEST_LONG, 8);
    } else if (none >= 2) out.put(SHORT_RUN + none - 2, 6);
    else {
      out.put(lengths[symbol]!, 6);
      none = 1;
    }
    symbol += none;
  }
}
