import { aligned, room, type Exports } from './memory.ts';

/** Lines and columns of a tile. */
export const TILE = 16;

type Lines = Uint8Array | Float32Array | Int32Array;

/** A row's tiles from one on to the one before another. */
export interface Stretch {
  readonly first: number;
  readonly end: number;
}

interface StripOptions {
  /** How many of the last parts are written whole before they are read, and need no zeros first. */
  readonly filled?: number;
  /** Tiles that it shows at most of a row, with one to either side of them: what is worked on then stays in the processor's own memory. */
  readonly most?: number;
}

/**
 * Memory of the kernels for one row of a picture's tiles after the other, or for a stretch of each: planes of some lines
 * each, with zeros behind every line. Good until another kernel asks for room.
 */
export class Strip<Name extends string> {
  readonly exports: Exports;
  readonly bytes: Uint8Array;
  readonly floats: Float32Array;
  readonly whole: Int32Array;
  /** Addresses. */
  readonly at: Readonly<Record<Name, number>>;
  /** Of the picture: pixels, and tiles. */
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
  /** What the rows are gone through by: one of them is shown after the other. */
  readonly stretches: readonly Stretch[];
  /** Pixels of a line, with those behind it; and its bytes as 32-bit floats. */
  readonly stride: number;
  readonly line: number;
  /** How many tiles are shown: those that are wanted, and one to either side. */
  tiles = 0;
  private wanted: Stretch = { first: 0, end: 0 };
  /** What is cleared for each stretch. */
  private readonly start: number;
  private readonly cleared: number;

  /** @param sizes bytes of each part, told the bytes of a line and the tiles that are shown at most */
  constructor(
    { width, height }: { readonly width: number; readonly height: number },
    sizes: (line: number, tiles: number) => Record<Name, number>,
    { filled = 0, most = Infinity }: StripOptions = {},
  ) {
    [this.width, this.height] = [width, height];
    [this.across, this.down] = [Math.ceil(width / TILE), Math.ceil(height / TILE)];
    this.stretches = stretchesOf(this.across, most);
    const tiles = Math.max(...this.stretches.map((stretch) => this.shownOf(stretch)[1]));
    this.stride = tiles * TILE + 4;
    this.line = this.stride * 4;
    const parts = Object.entries<number>(sizes(this.line, tiles));
    const { exports, start, bytes } = room(parts.reduce((sum, [, size]) => sum + aligned(size), 0));
    let next = start;
    const places = parts.map(([name, size]) => {
      const at = next;
      next += aligned(size);
      return [name, at] as const;
    });
    this.at = Object.fromEntries(places) as Record<Name, number>;
    [this.start, this.cleared] = [start, filled === 0 ? next : places[places.length - filled]![1]];
    [this.exports, this.bytes] = [exports, bytes];
    this.floats = new Float32Array(bytes.buffer);
    this.whole = new Int32Array(bytes.buffer);
    this.show(this.stretches[0]!);
  }

  /** Goes to a stretch; of what was put in only the last parts stay. */
  show(stretch: Stretch): void {
    this.wanted = stretch;
    this.tiles = this.shownOf(stretch)[1];
    this.bytes.fill(0, this.start, this.cleared);
  }

  /** The first tile that is shown of a stretch, and how many are. */
  private shownOf({ first, end }: Stretch): readonly [from: number, tiles: number] {
    const from = Math.max(0, first - 1);
    return [from, Math.min(this.across, end + 1) - from];
  }

  /** Tiles that are shown before those that are wanted, and how many of these there are. */
  get ahead(): number {
    return Math.min(1, this.wanted.first);
  }

  get count(): number {
    return this.wanted.end - this.wanted.first;
  }

  /** Where the first tile that is wanted of a row stands among the picture's. */
  firstOf(row: number): number {
    return row * this.across + this.wanted.first;
  }

  /** Copies lines of a plane in, from its line `first` on. @param beyond what lies above and below of it */
  put(plane: Lines, at: number, first: number, rows: number, beyond = 0): void {
    const { width, height, stride } = this;
    const left = (this.wanted.first - this.ahead) * TILE;
    const shown = Math.min(width - left, this.tiles * TILE);
    const into: Lines = plane instanceof Uint8Array ? this.bytes : plane instanceof Float32Array ? this.floats : this.whole;
    for (let y = 0, to = at / plane.BYTES_PER_ELEMENT; y < rows; y++, to += stride) {
      const source = first + y;
      if (source < 0 || source >= height) into.fill(beyond, to, to + shown);
      else into.set(plane.subarray(source * width + left, source * width + left + shown), to);
    }
  }

  /** Copies the lines of a row's wanted tiles out. */
  take(plane: Float32Array, at: number, row: number): void {
    const { width, height, stride, floats } = this;
    const [top, left] = [row * TILE, this.wanted.first * TILE];
    const many = Math.min(width, this.wanted.end * TILE) - left;
    for (let y = 0, from = at / 4 + this.ahead * TILE; y < TILE && top + y < height; y++, from += stride)
      plane.set(floats.subarray(from, from + many), (top + y) * width + left);
  }

  /** A figure of each tile that is wanted. @param at one 64-bit float for each tile that is shown */
  figures(at: number): Float64Array {
    return new Float64Array(this.bytes.buffer, at + this.ahead * 8, this.count);
  }

  /** Copies a figure of each tile that is wanted out. */
  takeFigures(figures: Float64Array, at: number, row: number): void {
    figures.set(this.figures(at), this.firstOf(row));
  }
}

/** Divides a row's tiles evenly. */
function stretchesOf(across: number, most: number): Stretch[] {
  const count = Math.max(1, Math.ceil(across / most));
  const bound = (i: number) => Math.round((i * across) / count);
  return Array.from({ length: count }, (_, i) => ({ first: bound(i), end: bound(i + 1) }));
}
