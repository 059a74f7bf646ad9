import { halfToFloat, type CodecTools, type Plane } from '../../formats/index.ts';
import type { ChannelFacts } from './schema.ts';

/** Code values are told as shares of the largest. */
export function scaleOf(plane: Plane): number {
  return plane.type === 'u8' ? 1 / 255 : plane.type === 'u16' ? 1 / 65535 : 1;
}

/** Measures one plane. Kinds of at most 65,536 values are counted once and reckoned from the counts. */
export function measureChannel(plane: Plane, hash: string): ChannelFacts {
  const sums = plane.type === 'float' || plane.type === 'uint' ? sumValues(plane) : sumCounts(plane);
  const { min, max, sum, finite, nan, infinite, negative, zero } = sums;
  const pixels = plane.width * plane.height;
  return {
    name: plane.channel,
    hash,
    min: finite > 0 ? rounded(min) : null,
    max: finite > 0 ? rounded(max) : null,
    mean: finite > 0 ? rounded(sum / finite) : null,
    nan,
    infinite,
    negative,
    zero: zero === pixels ? 1 : Math.min(0.999999, rounded(zero / pixels)),
  };
}

interface Sums {
  min: number;
  max: number;
  sum: number;
  finite: number;
  nan: number;
  infinite: number;
  negative: number;
  zero: number;
}

function emptySums(): Sums {
  return { min: Infinity, max: -Infinity, sum: 0, finite: 0, nan: 0, infinite: 0, negative: 0, zero: 0 };
}

function addValue(sums: Sums, value: number, count: number): void {
  if (!Number.isFinite(value)) {
    if (Number.isNaN(value)) sums.nan += count;
    else sums.infinite += count;
    return;
  }
  if (value < sums.min) sums.min = value;
  if (value > sums.max) sums.max = value;
  sums.sum += value * count;
  sums.finite += count;
  if (value === 0) sums.zero += count;
  else if (value < 0) sums.negative += count;
}

function sumValues({ data, offset, stride, width, height }: Plane): Sums {
  const sums = emptySums();
  const end = offset + width * height * stride;
  for (let i = offset; i < end; i += stride) addValue(sums, data[i], 1);
  return sums;
}

const counts = new Uint32Array(65536);
/** Every other pixel is counted here: the same count twice in a row would wait for itself. */
const otherCounts = new Uint32Array(65536);

function sumCounts(plane: Plane): Sums {
  const { data, offset, stride, width, height, type } = plane;
  const codes = type === 'u8' ? 256 : 65536;
  counts.fill(0, 0, codes);
  otherCounts.fill(0, 0, codes);
  const end = offset + width * height * stride;
  let i = offset;
  for (; i + stride < end; i += 2 * stride) {
    counts[data[i]]++;
    otherCounts[data[i + stride]]++;
  }
  if (i < end) counts[data[i]]++;
  const scale = scaleOf(plane);
  const sums = emptySums();
  for (let code = 0; code < codes; code++) {
    const count = counts[code] + otherCounts[code];
    if (count > 0) addValue(sums, type === 'half' ? halfToFloat(code) : code * scale, count);
  }
  return sums;
}

/** Seven digits: as many as a float of 32 bits holds, and what is kept of each file stays short. */
export function rounded(value: number): number {
  return Number(value.toPrecision(7));
}

/**
 * A checksum of each plane's values: of its bytes, or of the interleaved bytes that it lies in
 * with the others.
 */
export function hashPlanes(planes: readonly Plane[], tools: Pick<CodecTools, 'crc32'>): string[] {
  const known = new Map<Plane['data'], string>();
  return planes.map(({ data, stride, offset, type }) => {
    let hash = known.get(data);
    if (hash === undefined) {
      hash = tools
        .crc32(new Uint8Array(data.buffer, data.byteOffset, data.byteLength))
        .toString(16)
        .padStart(8, '0');
      known.set(data, hash);
    }
    return `${type}-${data.length}-${hash}${stride > 1 ? `.${offset}` : ''}`;
  });
}
