import { aligned, room, type Exports } from './memory.ts';

/** Lines and columns of a tile. */
export const TILE = 16;

type Lines = Uint8Array | Float32Array | Int32Array;

/**
 * Memory of the kernels for one row of a picture's tiles after the other: planes of some lines each, with zeros behind
 * every line. Good until another kernel asks for room.
 */
export class Strip<Name extends string> {
  readonly exports: Exports;
  readonly bytes: Uint8Array;
  readonly floats: Float32Array;
  readonly whole: Int32Array;
  /** Addresses. */
  readonly at: Readonly<Record<Name, number>>;
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
  /** Pixels of a line, with those behind it; and its bytes as 32-bit floats. */
  readonly stride: number;
  readonly line: number;

  /**
   * @param sizes bytes of each part, told the bytes of a line
   * @param filled how many of the last parts are written whole before they are read, and need no zeros first
   */
  constructor(
    { width, height }: { readonly width: number; readonly height: number },
    sizes: (line: number, across: number) => Record<Name, number>,
    filled = 0,
  ) {
    [this.width, this.height] = [width, height];
    [this.across, this.down] = [Math.ceil(width / TILE), Math.ceil(height / TILE)];
    this.stride = this.across * TILE + 4;
    this.line = this.stride * 4;
    const parts = Object.entries<number>(sizes(this.line, this.across));
    const { exports, start, bytes } = room(parts.reduce((sum, [, size]) => sum + aligned(size), 0));
    let next = start;
    const places = parts.map(([name, size]) => {
      const at = next;
      next += aligned(size);
      return [name, at] as const;
    });
    this.at = Object.fromEntries(places) as Record<Name, number>;
    bytes.fill(0, start, filled === 0 ? next : places[places.length - filled]![1]);
    [this.exports, this.bytes] = [exports, bytes];
    this.floats = new Float32Array(bytes.buffer);
    this.whole = new Int32Array(bytes.buffer);
  }

  /** Copies lines of a plane in, from its line `first` on. @param beyond what lies above and below of it */
  put(plane: Lines, at: number, first: number, rows: number, beyond = 0): void {
    const { width, height, stride } = this;
    const into: Lines = plane instanceof Uint8Array ? this.bytes : plane instanceof Float32Array ? this.floats : this.whole;
    for (let y = 0, to = at / plane.BYTES_PER_ELEMENT; y < rows; y++, to += stride) {
      const source = first + y;
      if (source < 0 || source >= height) into.fill(beyond, to, to + width);
      else into.set(plane.subarray(source * width, (source + 1) * width), to);
    }
  }

  /** Copies the lines of a row of tiles out. */
  take(plane: Float32Array, at: number, row: number): void {
    const { width, height, stride } = this;
    const top = row * TILE;
    for (let y = 0, from = at / 4; y < TILE && top + y < height; y++, from += stride) plane.set(this.floats.subarray(from, from + width), (top + y) * width);
  }

  /** Copies a figure of each tile out. */
  takeFigures(figures: Float64Array, at: number, row: number): void {
    figures.set(new Float64Array(this.bytes.buffer, at, this.across), row * this.across);
  }
}
