/** What is painted on a surface, from 0 to 1 at a place of the thing that it is painted on. */
export type Pattern = (x: number, y: number, z: number) => number;

/** A number from 0 to 1 for a corner of a grid, always the same. */
function corner(x: number, y: number, z: number): number {
  let hash = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ Math.imul(z, 0xc2b2ae3d);
  hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
  return ((hash ^ (hash >>> 13)) >>> 0) / 2 ** 32;
}

/** Values at the corners of a grid, joined smoothly (value noise). */
function grain(x: number, y: number, z: number): number {
  const [left, low, near] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [u, v, w] = [ease(x - left), ease(y - low), ease(z - near)];
  let sum = 0;
  for (let i = 0; i < 8; i++) {
    const [right, up, far] = [i & 1, (i >> 1) & 1, i >> 2];
    sum += corner(left + right, low + up, near + far) * (right ? u : 1 - u) * (up ? v : 1 - v) * (far ? w : 1 - w);
  }
  return sum;
}

const ease = (t: number) => t * t * (3 - 2 * t);

/** Coarse and fine grain on each other, as stone has it. */
export const stone =
  (scale: number): Pattern =>
  (x, y, z) =>
    0.5 * grain(x * scale, y * scale, z * scale) +
    0.3 * grain(x * scale * 3.1, y * scale * 3.1, z * scale * 3.1) +
    0.2 * grain(x * scale * 6.1, y * scale * 6.1, z * scale * 6.1);

/** Tiles of two tones. */
export const tiles =
  (side: number): Pattern =>
  (x, y, z) =>
    (Math.floor(x / side) + Math.floor(y / side + 0.25) + Math.floor(z / side)) & 1 ? 1 : 0.15;
