import { ZIGZAG } from '../zigzag.ts';
import type { CoefficientPlane } from './scan.ts';

/** A component's samples at its own size. */
export interface SamplePlane {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly data: Uint8Array;
}

// The integer transform that the usual libraries use (Loeffler, Ligtenberg and Moschytz 1989, with
// 13 bits of fraction), so that values agree with theirs to the last one.
const [F0298, F0390, F0541, F0765, F0899, F1175, F1501, F1847, F1961, F2053, F2562, F3072] = [
  0.298631336, 0.390180644, 0.5411961, 0.765366865, 0.899976223, 1.175875602, 1.50132111, 1.847759065, 1.96157056, 2.053119869, 2.562915447, 3.072711026,
].map((value) => Math.round(value * 8192));

/** Undoes quantisation and the cosine transform of all blocks. */
export function toSamples(plane: CoefficientPlane, quantisation: Uint16Array, width: number, height: number): SamplePlane {
  const stride = plane.blocksAcross * 8;
  const data = new Uint8Array(stride * plane.blocksDown * 8);
  const block = new Int32Array(64);
  for (let by = 0; by < plane.blocksDown; by++) {
    for (let bx = 0; bx < plane.blocksAcross; bx++) {
      const at = (by * plane.stride + bx) * 64;
      for (let k = 0; k < 64; k++) block[ZIGZAG[k]] = plane.data[at + k] * quantisation[k];
      for (let column = 0; column < 8; column++) transform(block, column, 8, 11);
      for (let row = 0; row < 8; row++) transform(block, row * 8, 1, 18);
      for (let y = 0; y < 8; y++) {
        const to = (by * 8 + y) * stride + bx * 8;
        for (let x = 0; x < 8; x++) {
          const value = block[y * 8 + x] + 128;
          data[to + x] = value < 0 ? 0 : value > 255 ? 255 : value;
        }
      }
    }
  }
  return { width, height, stride, data };
}

/** One row or column of eight, in place; sums are shifted down at the end. */
function transform(block: Int32Array, start: number, step: number, shift: number): void {
  const at = (i: number) => block[start + i * step];
  const even = (at(2) + at(6)) * F0541;
  const even2 = even - at(6) * F1847;
  const even3 = even + at(2) * F0765;
  const [sum, difference] = [(at(0) + at(4)) * 8192, (at(0) - at(4)) * 8192];
  const [t10, t13, t11, t12] = [sum + even3, sum - even3, difference + even2, difference - even2];
  const [o0, o1, o2, o3] = [at(7), at(5), at(3), at(1)];
  const z5 = (o0 + o2 + o1 + o3) * F1175;
  const z1 = (o0 + o3) * -F0899;
  const z2 = (o1 + o2) * -F2562;
  const z3 = (o0 + o2) * -F1961 + z5;
  const z4 = (o1 + o3) * -F0390 + z5;
  const [u0, u1, u2, u3] = [o0 * F0298 + z1 + z3, o1 * F2053 + z2 + z4, o2 * F3072 + z2 + z3, o3 * F1501 + z1 + z4];
  const rounding = 1 << (shift - 1);
  const put = (i: number, value: number) => void (block[start + i * step] = (value + rounding) >> shift);
  put(0, t10 + u3);
  put(7, t10 - u3);
  put(1, t11 + u2);
  put(6, t11 - u2);
  put(2, t12 + u1);
  put(5, t12 - u1);
  put(3, t13 + u0);
  put(4, t13 - u0);
}

/**
 * Brings a component to the picture's size. Halved components are weighted three to one from
 * their nearer and farther neighbour, as the usual libraries do; other ratios repeat samples.
 */
export function toFullSize(plane: SamplePlane, width: number, height: number, across: number, down: number): SamplePlane {
  if (across === 1 && down === 1) return plane;
  if (across === 2 && (down === 1 || down === 2) && plane.width > 2) return widen(plane, width, height, down);
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

function widen(plane: SamplePlane, width: number, height: number, down: number): SamplePlane {
  const data = new Uint8Array(width * height);
  const sums = new Int32Array(plane.width);
  // Rows mixed three to one weigh four; columns again. Rounding goes up and down by turns.
  const [shift, roundEven, roundOdd] = down === 2 ? [4, 8, 7] : [2, 1, 2];
  for (let y = 0; y < height; y++) {
    const near = Math.floor(y / down);
    const far = Math.min(plane.height - 1, Math.max(0, near + (y % 2 === 0 ? -1 : 1)));
    for (let x = 0; x < plane.width; x++) {
      const value = plane.data[near * plane.stride + x];
      sums[x] = down === 2 ? value * 3 + plane.data[far * plane.stride + x] : value;
    }
    for (let x = 0; x < width; x++) {
      const here = x >> 1;
      const other = x % 2 === 0 ? here - 1 : here + 1;
      const isEdge = other < 0 || other >= plane.width;
      const value = isEdge ? sums[here] * 4 : sums[here] * 3 + sums[other];
      data[y * width + x] = (value + (x % 2 === 0 ? roundEven : roundOdd)) >> shift;
    }
  }
  return { width, height, stride: width, data };
}
