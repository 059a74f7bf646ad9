import { expect } from 'vitest';
import { frameFormats, inspectFrameFile, memorySource, type Plane } from '../src/index.ts';
import { tools } from './tools.ts';

/** Kinds that the reference frames do not show, written here by hand after the formats' own documents. */

export function decode(name: string, bytes: Uint8Array): readonly Plane[] {
  for (const level of ['headers', 'full'] as const) {
    const { facts } = inspectFrameFile(memorySource(bytes), `a.${name}`, level, tools);
    expect(facts).toMatchObject({ problem: null, trailingBytes: 0, notExamined: null });
  }
  return frameFormats
    .find(({ extensions }) => extensions.includes(name))!
    .open(memorySource(bytes))
    .decode(tools).frame.planes;
}

export const valuesOf = ({ data, offset, stride, width, height }: Plane) => Array.from({ length: width * height }, (_, i) => data[offset + i * stride]);
export const le16 = (...values: number[]) => values.flatMap((value) => [value & 255, (value >> 8) & 255]);
export const le32 = (...values: number[]) => values.flatMap((value) => [value & 255, (value >>> 8) & 255, (value >>> 16) & 255, (value >>> 24) & 255]);
export const be32 = (...values: number[]) => values.flatMap((value) => [(value >>> 24) & 255, (value >>> 16) & 255, (value >>> 8) & 255, value & 255]);
