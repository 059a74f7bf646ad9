import { FrameFileError } from '../errors.ts';
import type { JpegComponent, JpegImage } from './header.ts';
import { type HuffmanTable, ScanBits } from './entropy.ts';

/** A component's coefficients: blocks of 64 in the order of their frequencies, row by row of blocks. */
export interface CoefficientPlane {
  readonly component: JpegComponent;
  /** Blocks that hold pixels, and blocks that are stored: whole units. */
  readonly blocksAcross: number;
  readonly blocksDown: number;
  readonly stride: number;
  readonly data: Int16Array;
}

/** What a scan header says (section B.2.3). */
export interface ScanHeader {
  readonly planes: readonly { plane: CoefficientPlane; dc: HuffmanTable | null; ac: HuffmanTable | null }[];
  readonly first: number;
  readonly last: number;
  /** Successive approximation: bits that came before, and the bit that this scan brings. */
  readonly high: number;
  readonly low: number;
  readonly restartInterval: number;
}

export function makePlanes(image: JpegImage): CoefficientPlane[] {
  const across = Math.max(...image.components.map((component) => component.across));
  const down = Math.max(...image.components.map((component) => component.down));
  const unitsAcross = Math.ceil(image.width / (8 * across));
  const unitsDown = Math.ceil(image.height / (8 * down));
  return image.components.map((component) => {
    const stride = unitsAcross * component.across;
    return {
      component,
      blocksAcross: Math.ceil(Math.ceil((image.width * component.across) / across) / 8),
      blocksDown: Math.ceil(Math.ceil((image.height * component.down) / down) / 8),
      stride,
      data: new Int16Array(stride * unitsDown * component.down * 64),
    };
  });
}

type BlockDecoder = (data: Int16Array, at: number, index: number) => void;

/**
 * Decodes one scan into the planes.
 *
 * @returns where the next marker stands
 * @throws FrameFileError
 */
export function decodeScan(bytes: Uint8Array, from: number, scan: ScanHeader, progressive: boolean): number {
  const bits = new ScanBits(bytes, from);
  const state = { predictions: scan.planes.map(() => 0), endOfBand: 0 };
  const decoders = scan.planes.map((entry, index) => makeDecoder(bits, scan, entry, index, state, progressive));
  const units = listUnits(scan);
  for (let unit = 0; unit < units.count; unit++) {
    if (scan.restartInterval > 0 && unit > 0 && unit % scan.restartInterval === 0) {
      bits.restart((unit / scan.restartInterval - 1) & 7);
      state.predictions.fill(0);
      state.endOfBand = 0;
    }
    units.visit(unit, (index, at) => decoders[index](scan.planes[index].plane.data, at, index));
    if (bits.isPastEnd) {
      const ending = bits.endsFile ? ('truncated' as const) : ('corrupt' as const);
      throw new FrameFileError(ending, `The pixel data ends at byte ${bits.position}, after ${unit} of ${units.count} blocks.`);
    }
  }
  const left = bits.leftOver();
  if (left > 0) throw new FrameFileError('corrupt', `${left} bytes of pixel data before byte ${bits.position} belong to no block.`);
  return bits.position;
}

/** The order of blocks: by themselves for one component, in units of all for several (section A.2). */
function listUnits({ planes }: ScanHeader): { count: number; visit: (unit: number, block: (index: number, at: number) => void) => void } {
  if (planes.length === 1) {
    const { blocksAcross, blocksDown, stride } = planes[0].plane;
    return {
      count: blocksAcross * blocksDown,
      visit: (unit, block) => block(0, (Math.floor(unit / blocksAcross) * stride + (unit % blocksAcross)) * 64),
    };
  }
  const [{ plane: any }] = planes;
  const unitsAcross = any.stride / any.component.across;
  const unitsDown = any.data.length / 64 / any.stride / any.component.down;
  return {
    count: unitsAcross * unitsDown,
    visit(unit, block) {
      const [column, row] = [unit % unitsAcross, Math.floor(unit / unitsAcross)];
      planes.forEach(({ plane: { component, stride } }, index) => {
        for (let y = 0; y < component.down; y++) {
          for (let x = 0; x < component.across; x++) block(index, ((row * component.down + y) * stride + column * component.across + x) * 64);
        }
      });
    },
  };
}

function makeDecoder(
  bits: ScanBits,
  scan: ScanHeader,
  { dc, ac }: ScanHeader['planes'][number],
  index: number,
  state: { predictions: number[]; endOfBand: number },
  progressive: boolean,
): BlockDecoder {
  const need = (table: HuffmanTable | null): HuffmanTable => {
    if (!table) throw new FrameFileError('corrupt', 'A scan asks for a table of codes that is not there.');
    return table;
  };
  if (!progressive) return sequentialDecoder(bits, need(dc), need(ac), index, state);
  const { first, last, high, low } = scan;
  if (first === 0) {
    if (high > 0) return (data, at) => void (data[at] |= bits.bit() << low);
    const table = need(dc);
    return (data, at) => {
      const size = bits.symbol(table);
      if (size > 15) throw impossible(bits);
      state.predictions[index] += size === 0 ? 0 : bits.signed(size);
      data[at] = state.predictions[index] << low;
    };
  }
  return high === 0 ? bandDecoder(bits, need(ac), first, last, low, state) : bandRefiner(bits, need(ac), first, last, low, state);
}

function impossible(bits: ScanBits): FrameFileError {
  return new FrameFileError('corrupt', `The pixel data before byte ${bits.position} holds a value that no block has.`);
}

/** Section F.2.2. */
function sequentialDecoder(bits: ScanBits, dc: HuffmanTable, ac: HuffmanTable, index: number, state: { predictions: number[] }): BlockDecoder {
  return (data, at) => {
    const size = bits.symbol(dc);
    if (size > 15) throw impossible(bits);
    state.predictions[index] += size === 0 ? 0 : bits.signed(size);
    data[at] = state.predictions[index];
    for (let k = 1; k < 64;) {
      const symbol = bits.symbol(ac);
      const length = symbol & 15;
      if (length === 0) {
        if (symbol !== 0xf0) break;
        k += 16;
        if (k > 64) throw impossible(bits);
        continue;
      }
      k += symbol >> 4;
      if (k > 63) throw impossible(bits);
      data[at + k++] = bits.signed(length);
    }
  };
}

/** First scan of a band of frequencies (section G.1.2.2). */
function bandDecoder(bits: ScanBits, ac: HuffmanTable, first: number, last: number, low: number, state: { endOfBand: number }): BlockDecoder {
  return (data, at) => {
    if (state.endOfBand > 0) {
      state.endOfBand--;
      return;
    }
    for (let k = first; k <= last;) {
      const symbol = bits.symbol(ac);
      const [run, length] = [symbol >> 4, symbol & 15];
      if (length === 0) {
        if (run < 15) {
          state.endOfBand = (1 << run) + bits.take(run) - 1;
          break;
        }
        k += 16;
        if (k > last + 1) throw impossible(bits);
        continue;
      }
      k += run;
      if (k > last) throw impossible(bits);
      data[at + k++] = bits.signed(length) * (1 << low);
    }
  };
}

/** Further bits of a band (section G.1.2.3). */
function bandRefiner(bits: ScanBits, ac: HuffmanTable, first: number, last: number, low: number, state: { endOfBand: number }): BlockDecoder {
  const step = 1 << low;
  const refine = (data: Int16Array, at: number) => {
    if (bits.bit() === 1 && (data[at] & step) === 0) data[at] += data[at] > 0 ? step : -step;
  };
  return (data, at) => {
    let k = first;
    if (state.endOfBand === 0) {
      while (k <= last) {
        const symbol = bits.symbol(ac);
        let run = symbol >> 4;
        let value = 0;
        if ((symbol & 15) === 0) {
          if (run < 15) {
            state.endOfBand = (1 << run) + bits.take(run);
            break;
          }
        } else if ((symbol & 15) === 1) value = bits.bit() === 1 ? step : -step;
        else throw impossible(bits);
        // The value's place is behind so many zeros; a run of sixteen ends with its last one.
        while (k <= last && (data[at + k] !== 0 || run-- > 0)) {
          if (data[at + k] !== 0) refine(data, at + k);
          k++;
        }
        if (k > last) throw impossible(bits);
        if (value !== 0) data[at + k] = value;
        k++;
      }
    }
    if (state.endOfBand > 0) {
      for (; k <= last; k++) if (data[at + k] !== 0) refine(data, at + k);
      state.endOfBand--;
    }
  };
}
