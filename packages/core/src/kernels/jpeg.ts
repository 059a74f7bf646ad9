import { aligned, room } from './memory.ts';

/** Blocks of coefficients, 64 each in file order, row by row of blocks. */
export interface CoefficientBlocks {
  readonly data: Int16Array;
  /** Blocks from a row of blocks to the next. */
  readonly stride: number;
  readonly blocksAcross: number;
  readonly blocksDown: number;
}

/** Samples of a byte each, lines of `stride` bytes. */
export interface ByteLines {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly data: Uint8Array;
}

const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

/** Undoes quantisation and the cosine transform: a byte a sample, lines of whole blocks. */
export function samplesOfBlocks({ data, stride, blocksAcross, blocksDown }: CoefficientBlocks, quantisation: Uint16Array): Uint8Array {
  const [input, table] = [aligned(data.byteLength), aligned(quantisation.byteLength)];
  const size = blocksAcross * blocksDown * 64;
  const { exports, start, bytes } = room(input + table + aligned(size));
  bytes.set(bytesOf(data), start);
  bytes.set(bytesOf(quantisation), start + input);
  const out = start + input + table;
  exports.toSamples(start, stride, blocksAcross, blocksDown, start + input, out);
  return bytes.slice(out, out + size);
}

/** Brings samples that are halved across, and down where `down` is 2, to full size. */
export function widenSamples(plane: ByteLines, width: number, height: number, down: 1 | 2): Uint8Array {
  const [input, sums] = [aligned(plane.data.length), aligned(plane.width * 2 + 192)];
  const { exports, start, bytes } = room(input + sums + aligned(width * height + 64));
  bytes.set(plane.data, start);
  const out = start + input + sums;
  exports.widen(start, plane.stride, plane.width, plane.height, width, height, down, start + input, out);
  return bytes.slice(out, out + width * height);
}

/** Luma and chroma of one size as red, green and blue, `step` bytes from pixel to pixel; bytes between are left as they are. */
export function rgbOfLumaAndChroma(planes: readonly [ByteLines, ByteLines, ByteLines], width: number, height: number, step: number): Uint8Array {
  const places: number[] = [];
  let total = 0;
  for (const { data } of planes) {
    places.push(total);
    total += aligned(data.length);
  }
  const size = width * height * step;
  const { exports, start, bytes } = room(total + aligned(size));
  planes.forEach(({ data }, i) => bytes.set(data, start + places[i]));
  const [luma, blue, red] = places.map((place) => start + place);
  const out = start + total;
  exports.toRgb(luma, planes[0].stride, blue, planes[1].stride, red, planes[2].stride, width, height, step, out);
  return bytes.slice(out, out + size);
}
