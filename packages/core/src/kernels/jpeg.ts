import { runScan, SCAN_BYTES, type BlocksInMemory, type Scan, type ScanEnd } from './jpeg-scan.ts';
import { aligned, MARGIN, room, tenancy, type Exports } from './memory.ts';

/** A component of a picture: its blocks, and its samples. */
export interface ComponentShape extends Omit<BlocksInMemory, 'at'> {
  /** Rows of blocks that are stored: whole units. */
  readonly rows: number;
  /** Samples at its own size. */
  readonly width: number;
  readonly height: number;
}

/** Samples of a byte each, lines of `stride` bytes. */
export interface ByteLines {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly data: Uint8Array;
}

/** How a component comes to the picture's size: as it is, halved and weighted, or by `fill`, which writes lines one behind the other. */
export type Widening = 'none' | 'halved across' | 'halved both ways' | ((samples: ByteLines, firstLine: number, lines: number, out: Uint8Array) => void);

interface ComponentInMemory extends ComponentShape, BlocksInMemory {
  readonly samplesAt: number;
  readonly stripAt: number;
}

/** Lines that become pixels at a time: what they are made of stays in a processor's own memory. */
const STRIP = 16;
const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

/**
 * One JPEG in the kernels' memory from its bits to its pixels, so that nothing is carried out and in between: first its
 * scans, then the samples of each component, then the pixels. No other kernel may be used meanwhile.
 */
export class JpegPicture {
  readonly #places: { scan: number; quantisation: number; sums: number; file: number; pixels: number };
  readonly #components: readonly ComponentInMemory[];
  readonly #fileSize: number;
  readonly #width: number;
  readonly #height: number;
  readonly #tenancy: number;
  readonly #exports: Exports;
  readonly #memory: Uint8Array;

  constructor(file: Uint8Array, width: number, height: number, shapes: readonly ComponentShape[]) {
    const { start } = room(0);
    let next = start;
    const place = (size: number) => {
      const at = next;
      next += aligned(size);
      return at;
    };
    const own = { scan: place(SCAN_BYTES), quantisation: place(128), sums: place(width * 2 + 3 * MARGIN), file: place(file.length) };
    const pixels = next;
    const blocks = shapes.map(({ stride, rows }) => place(stride * rows * 128));
    const blocksEnd = next;
    // Once there are samples nobody needs the blocks: the pixels take their place.
    next = Math.max(next, pixels + aligned(width * height * shapes.length));
    this.#components = shapes.map((shape, i) => ({
      ...shape,
      at: blocks[i]!,
      samplesAt: place(shape.blocksAcross * shape.blocksDown * 64),
      stripAt: place(width * STRIP),
    }));
    const { exports, bytes } = room(next - start);
    bytes.fill(0, pixels, blocksEnd);
    bytes.set(file, own.file);
    this.#places = { ...own, pixels };
    this.#fileSize = file.length;
    this.#width = width;
    this.#height = height;
    this.#exports = exports;
    this.#memory = bytes;
    this.#tenancy = tenancy();
  }

  #checkTenancy(): void {
    if (tenancy() !== this.#tenancy) throw new Error("Another kernel has used the memory of a JPEG's picture.");
  }

  /** Decodes the scan whose bits begin at byte `from` of the file. */
  decodeScan(from: number, scan: Scan): ScanEnd {
    this.#checkTenancy();
    return runScan(this.#exports, this.#places.scan, { at: this.#places.file, size: this.#fileSize, from }, scan, this.#components);
  }

  /** Undoes quantisation and the cosine transform: one table a component, in file order. */
  makeSamples(quantisation: readonly Uint16Array[]): void {
    this.#checkTenancy();
    this.#components.forEach(({ at, stride, blocksAcross, blocksDown, samplesAt }, i) => {
      this.#memory.set(bytesOf(quantisation[i]!), this.#places.quantisation);
      this.#exports.toSamples(at, stride, blocksAcross, blocksDown, this.#places.quantisation, samplesAt);
    });
  }

  /**
   * The picture's pixels, a byte for each component of each.
   *
   * @param widenings one a component
   * @param isLumaAndChroma whether the first three are turned into red, green and blue
   */
  pixels(widenings: readonly Widening[], isLumaAndChroma: boolean): Uint8Array {
    this.#checkTenancy();
    const [width, height, count, out] = [this.#width, this.#height, this.#components.length, this.#places.pixels];
    for (let line = 0; line < height; line += STRIP) {
      const lines = Math.min(STRIP, height - line);
      const strips = this.#components.map((component, i) => this.#strip(component, widenings[i]!, line, lines));
      const to = out + line * width * count;
      if (isLumaAndChroma) {
        const [luma, blue, red] = strips as [Strip, Strip, Strip];
        this.#exports.toRgb(luma.at, luma.stride, blue.at, blue.stride, red.at, red.stride, width, lines, count, to);
      }
      for (let i = isLumaAndChroma ? 3 : 0; i < count; i++) this.#interleave(strips[i]!, lines, to + i);
    }
    return this.#memory.slice(out, out + width * height * count);
  }

  /** Lines of a component at the picture's size. */
  #strip(component: ComponentInMemory, widening: Widening, line: number, lines: number): Strip {
    const { width, height, blocksAcross, blocksDown, samplesAt, stripAt } = component;
    const stride = blocksAcross * 8;
    if (widening === 'none') return { at: samplesAt + line * stride, stride };
    if (typeof widening === 'string') {
      const down = widening === 'halved across' ? 1 : 2;
      this.#exports.widen(samplesAt, stride, width, height, this.#width, line, lines, down, this.#places.sums, stripAt);
    } else {
      const data = this.#memory.subarray(samplesAt, samplesAt + stride * blocksDown * 8);
      widening({ width, height, stride, data }, line, lines, this.#memory.subarray(stripAt, stripAt + lines * this.#width));
    }
    return { at: stripAt, stride: this.#width };
  }

  #interleave({ at, stride }: Strip, lines: number, to: number): void {
    const count = this.#components.length;
    for (let y = 0; y < lines; y++) {
      for (let x = 0, place = to + y * this.#width * count; x < this.#width; x++, place += count) this.#memory[place] = this.#memory[at + y * stride + x]!;
    }
  }
}

interface Strip {
  readonly at: number;
  readonly stride: number;
}
