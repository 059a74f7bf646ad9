import type { CodecTools, Plane } from '../../formats/index.ts';
import { sumUpValues, type ValueSums } from '../../kernels/index.ts';
import type { ChannelFacts } from './schema.ts';
import { scaleOf } from './values.ts';

/** Measures planes; those that lie between each other in one array are walked together. */
export function measureChannels(planes: readonly Plane[], tools: Pick<CodecTools, 'crc32'>): ChannelFacts[] {
  const hashes = hashPlanes(planes, tools);
  const known = new Map<Plane['data'], ValueSums[]>();
  return planes.map((plane, i) => {
    let sums = known.get(plane.data);
    if (!sums) known.set(plane.data, (sums = sumsOf(plane)));
    return factsOf(plane, sums[plane.offset]!, hashes[i]!);
  });
}

function factsOf(plane: Plane, { min, max, sum, nan, infinite, negative, zero }: ValueSums, hash: string): ChannelFacts {
  const pixels = plane.width * plane.height;
  const finite = pixels - nan - infinite;
  const scale = scaleOf(plane.type);
  // Adding zero makes a minus zero a plain one.
  const told = (value: number) => (finite > 0 ? rounded(value * scale) + 0 : null);
  return {
    name: plane.channel,
    hash,
    min: told(min),
    max: told(max),
    mean: told(sum / finite),
    nan,
    infinite,
    negative,
    zero: zero === pixels ? 1 : Math.min(0.999999, rounded(zero / pixels)),
  };
}

function sumsOf({ type, data, stride }: Plane): ValueSums[] {
  if (type !== 'uint') return sumUpValues(type, data as Uint8Array | Uint16Array | Float32Array, stride);
  return Array.from({ length: stride }, (_, channel) => sumUpIntegers(data, channel, stride));
}

/** Integers of 32 bits are rare: object numbers. */
function sumUpIntegers(data: Plane['data'], offset: number, stride: number): ValueSums {
  const sums = { min: Infinity, max: -Infinity, sum: 0, nan: 0, infinite: 0, negative: 0, zero: 0 };
  for (let i = offset; i < data.length; i += stride) {
    const value = data[i];
    if (value < sums.min) sums.min = value;
    if (value > sums.max) sums.max = value;
    sums.sum += value;
    if (value === 0) sums.zero++;
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
function hashPlanes(planes: readonly Plane[], tools: Pick<CodecTools, 'crc32'>): string[] {
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
