import { samplesOfBlocks, widenSamples } from '../../kernels/index.ts';
import type { CoefficientPlane } from './scan.ts';

/** A component's samples at its own size. */
export interface SamplePlane {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly data: Uint8Array;
}

/** Undoes quantisation and the cosine transform of all blocks. */
export function toSamples(plane: CoefficientPlane, quantisation: Uint16Array, width: number, height: number): SamplePlane {
  return { width, height, stride: plane.blocksAcross * 8, data: samplesOfBlocks(plane, quantisation) };
}

/**
 * Brings a component to the picture's size. Halved components are weighted three to one from
 * their nearer and farther neighbour, as the usual libraries do; other ratios repeat samples.
 */
export function toFullSize(plane: SamplePlane, width: number, height: number, across: number, down: number): SamplePlane {
  if (across === 1 && down === 1) return plane;
  if (across === 2 && (down === 1 || down === 2) && plane.width > 2) return { width, height, stride: width, data: widenSamples(plane, width, height, down) };
  if (across === 1 && down === 2) return heighten(plane, width, height);
  const data = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    const row = Math.min(plane.height - 1, Math.floor(y / down)) * plane.stride;
    for (let x = 0; x < width; x++) data[y * width + x] = plane.data[row + Math.min(plane.width - 1, Math.floor(x / across))];
  }
  return { width, height, stride: width, data };
}

/** Halved down only: rows three to one, rounding up and down by turns. */
function heighten(plane: SamplePlane, width: number, height: number): SamplePlane {
  const data = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    const near = Math.floor(y / 2);
    const far = Math.min(plane.height - 1, Math.max(0, near + (y % 2 === 0 ? -1 : 1)));
    for (let x = 0; x < width; x++) {
      const sum = plane.data[near * plane.stride + x] * 3 + plane.data[far * plane.stride + x];
      data[y * width + x] = (sum + (y % 2 === 0 ? 1 : 2)) >> 2;
    }
  }
  return { width, height, stride: width, data };
}
