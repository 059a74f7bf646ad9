import type { Gradients } from '../brief/index.ts';
import type { Luminance } from './luminance.ts';
import { encodeSRgb } from '../view/index.ts';

/** Side of the squares in which gradients are looked for, in pixels. */
const SQUARE = 32;
/** A square whose picture departs further from an even slope is textured, and hides its steps. */
const SMOOTH = 2 / 255;
/** A slope that is steeper than this over the square has steps too narrow to be seen in 8 bits. */
const SOFT = 12 / 255;
/** A slope that is flatter than this has not even one step in 12 bits. */
const FLAT = 1 / 4095;

/**
 * Looks for soft gradients: squares in which the encoded luminance is an even slope (a plane by
 * least squares) that goes over few code values. Those are the places that band when the values
 * are rounded.
 *
 * @param linear whether the luminance is scene-linear, and goes through the sRGB curve first
 * @returns null when there are none
 */
export function measureGradients(luminance: Luminance, linear: boolean): Gradients | null {
  const { width, height, values } = luminance;
  const encoded = linear ? Float32Array.from(values, encodeSRgb) : values;
  const soft: { span: number; noise: number }[] = [];
  let squares = 0;
  for (let top = 0; top + SQUARE <= height; top += SQUARE) {
    for (let left = 0; left + SQUARE <= width; left += SQUARE) {
      squares++;
      const slope = fitPlane(encoded, width, left, top);
      if (slope.noise <= SMOOTH && slope.span <= SOFT && slope.span >= FLAT) soft.push(slope);
    }
  }
  if (soft.length === 0) return null;
  soft.sort((a, b) => a.span - b.span);
  const softest = soft.slice(0, Math.ceil(soft.length / 10));
  const middle = (key: 'span' | 'noise') => softest.map((one) => one[key]).sort((a, b) => a - b)[Math.floor(softest.length / 2)];
  return { pixels: SQUARE, span: middle('span'), noise: middle('noise'), share: soft.length / squares };
}

/** Over a square a banded slope goes over so many code values at least and at most: fewer are no bands, more are too narrow to be seen. */
const BANDED_SPAN = [2, 8] as const;
/**
 * Rounding alone leaves an error of 1 / sqrt 12 = 0.29 code values, less where three channels are weighed together; noise
 * that hides the steps is half a code value and more (Lipshitz, Wannamaker and Vanderkooy 1992, section 4).
 */
const UNDITHERED = 0.4;

/**
 * Share of a picture of 8 bits whose soft gradients stand in steps that no noise hides.
 *
 * @param luminance of code values as 0..1
 * @returns null where the picture is smaller than a square
 */
export function bandedShare({ width, height, values }: Luminance): number | null {
  let [banded, squares] = [0, 0];
  for (let top = 0; top + SQUARE <= height; top += SQUARE) {
    for (let left = 0; left + SQUARE <= width; left += SQUARE) {
      squares++;
      const { span, noise } = fitPlane(values, width, left, top);
      if (span * 255 >= BANDED_SPAN[0] && span * 255 <= BANDED_SPAN[1] && noise * 255 < UNDITHERED) banded++;
    }
  }
  return squares === 0 ? null : banded / squares;
}

/** Least squares of v = p + a x + b y over a square; on a regular grid the terms part from each other. */
function fitPlane(values: Float32Array, width: number, left: number, top: number): { span: number; noise: number } {
  const middle = (SQUARE - 1) / 2;
  let [sum, alongX, alongY, squares] = [0, 0, 0, 0];
  for (let y = 0; y < SQUARE; y++) {
    const row = (top + y) * width + left;
    for (let x = 0; x < SQUARE; x++) {
      const value = values[row + x];
      sum += value;
      squares += value * value;
      alongX += value * (x - middle);
      alongY += value * (y - middle);
    }
  }
  const count = SQUARE * SQUARE;
  // Sum of (x - middle)^2 over the square: n (n^2 - 1) / 12 a row.
  const spread = (SQUARE * count * (SQUARE * SQUARE - 1)) / 12 / SQUARE;
  const [a, b] = [alongX / spread, alongY / spread];
  const left2 = squares - (sum * sum) / count - spread * (a * a + b * b);
  return { span: Math.hypot(a, b) * (SQUARE - 1), noise: Math.sqrt(Math.max(0, left2) / count) };
}
