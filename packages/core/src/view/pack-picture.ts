import { floatToHalf, halfToFloat, type DecodedFrame, type Plane, type PlaneType } from '../formats/index.ts';
import { planesNamed } from './choose-planes.ts';
import type { PictureInfo, PictureSamples } from './picture-message.ts';

/** Which part of a frame is wanted, and how finely. */
export interface PictureWish {
  /** The channels that belong to the pass; null for all of the file's. */
  readonly layer: readonly string[] | null;
  /** Exactly these channels, four at most; null for what the pass shows by itself. */
  readonly only: readonly string[] | null;
  /** Left, top, width and height in pixels of the data window; null for all of it. */
  readonly region: readonly [number, number, number, number] | null;
  /** Every so many pixels across and down become one, their mean. */
  readonly reduce: number;
}

/**
 * Packs the wanted channels pixel by pixel, as the file has them: halves stay halves, integers stay integers. Only
 * channels of different kinds are brought together, as floats.
 *
 * @returns null where the frame has none of them
 */
export function packPicture(frame: DecodedFrame, wish: PictureWish): { info: PictureInfo; samples: PictureSamples } | null {
  const own = frame.planes.filter((plane) => wish.layer === null || wish.layer.includes(plane.channel));
  const planes = wish.only === null ? seenPlanes(own) : exactly(frame.planes, wish.only);
  const first = planes[0];
  if (!first) return null;
  const full: [number, number] = [first.width, first.height];
  const [left, top, width, height] = within(wish.region ?? [0, 0, ...full], full);
  const type = planes.every((plane) => plane.type === first.type) ? first.type : 'float';
  const reduce = Math.max(1, Math.floor(wish.reduce));
  const samples = reduce === 1 ? copyPart(planes, type, left, top, width, height) : meanPart(planes, type, left, top, width, height, reduce);
  const { header } = frame;
  const info: PictureInfo = {
    format: header.format,
    type,
    channels: planes.map((plane) => plane.channel),
    all: frame.planes.map((plane) => plane.channel),
    left,
    top,
    width: Math.ceil(width / reduce),
    height: Math.ceil(height / reduce),
    reduce,
    full,
    dataWindow: header.dataWindow ? [...header.dataWindow] : [0, 0, full[0] - 1, full[1] - 1],
    displayWindow: header.displayWindow ? [...header.displayWindow] : [0, 0, full[0] - 1, full[1] - 1],
    pixelAspect: header.pixelAspect ?? 1,
    alphaKind: header.alphaKind ?? null,
    damage: [],
    problem: '',
  };
  return { info, samples };
}

/** What a pass shows by itself: colour with its alpha, else a vector, else its first channel. */
function seenPlanes(own: readonly Plane[]): Plane[] {
  const first = own[0];
  if (!first) return [];
  const alike = own.filter((plane) => plane.width === first.width && plane.height === first.height);
  for (const letters of ['RGBA', 'RGB', 'XYZ', 'YA', 'Y', 'UV', 'XY']) {
    const found = planesNamed(alike, letters, true);
    if (found) return found;
  }
  return alike.slice(0, 1);
}

function exactly(planes: readonly Plane[], names: readonly string[]): Plane[] {
  const found = names.slice(0, 4).map((name) => planes.find((plane) => plane.channel === name));
  const first = found[0];
  return found.filter((plane): plane is Plane => plane !== undefined && plane.width === first?.width && plane.height === first.height);
}

function within([left, top, width, height]: readonly [number, number, number, number], [across, down]: readonly [number, number]) {
  const x = Math.min(across - 1, Math.max(0, Math.floor(left)));
  const y = Math.min(down - 1, Math.max(0, Math.floor(top)));
  return [x, y, Math.max(1, Math.min(across - x, Math.ceil(width))), Math.max(1, Math.min(down - y, Math.ceil(height)))] as const;
}

const ARRAYS = { u8: Uint8Array, u16: Uint16Array, half: Uint16Array, float: Float32Array, uint: Uint32Array } as const;

/** A value of a plane as a number. */
const readerOf = (type: PlaneType) => (type === 'half' ? halfToFloat : (value: number) => value);

function copyPart(planes: readonly Plane[], type: PlaneType, left: number, top: number, width: number, height: number): PictureSamples {
  const count = planes.length;
  const [first] = planes as [Plane, ...Plane[]];
  const { data } = first;
  const isWhole = left === 0 && top === 0 && width === first.width && height === first.height;
  const isPacked = planes.every((plane, i) => plane.data === data && plane.offset === i && plane.stride === count);
  if (isWhole && isPacked && data.length === width * height * count) return data;
  const out = new ARRAYS[type](width * height * count);
  planes.forEach((plane, channel) => {
    const read = plane.type === type ? null : readerOf(plane.type);
    for (let y = 0; y < height; y++) {
      let from = plane.offset + ((top + y) * plane.width + left) * plane.stride;
      let to = y * width * count + channel;
      if (read === null) for (let x = 0; x < width; x++, from += plane.stride, to += count) out[to] = plane.data[from];
      else for (let x = 0; x < width; x++, from += plane.stride, to += count) out[to] = read(plane.data[from]);
    }
  });
  return out;
}

/** The mean of each square of pixels; numbers of things (`uint`) have none, and give their first. */
function meanPart(planes: readonly Plane[], type: PlaneType, left: number, top: number, width: number, height: number, reduce: number): PictureSamples {
  const count = planes.length;
  const [across, down] = [Math.ceil(width / reduce), Math.ceil(height / reduce)];
  const out = new ARRAYS[type](across * down * count);
  const write = type === 'half' ? floatToHalf : type === 'float' || type === 'uint' ? (value: number) => value : Math.round;
  const size = type === 'uint' ? 1 : reduce;
  planes.forEach((plane, channel) => {
    const read = readerOf(plane.type);
    for (let y = 0; y < down; y++) {
      const rows = Math.min(size, height - y * reduce);
      for (let x = 0; x < across; x++) {
        const columns = Math.min(size, width - x * reduce);
        let sum = 0;
        for (let row = 0; row < rows; row++) {
          let from = plane.offset + ((top + y * reduce + row) * plane.width + left + x * reduce) * plane.stride;
          for (let column = 0; column < columns; column++, from += plane.stride) sum += read(plane.data[from]);
        }
        out[(y * across + x) * count + channel] = write(sum / (rows * columns));
      }
    }
  });
  return out;
}
