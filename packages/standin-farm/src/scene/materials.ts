import type { Pattern } from './patterns.ts';

/** A colour, scene-linear: red, green, blue. */
export type Colour = readonly [number, number, number];

/** What a surface is made of. */
export interface Material {
  readonly kind: 'slate' | 'metal' | 'glass' | 'glow';
  readonly colour: Colour;
  /** How far metal scatters its mirror image, 0 to 1. */
  readonly roughness: number;
  /** What its colour is multiplied with from place to place. */
  readonly pattern?: Pattern;
}

export const material = (kind: Material['kind'], colour: Colour, roughness = 0, pattern?: Pattern): Material => ({ kind, colour, roughness, pattern });

export const materials = {
  slate: material('slate', [0.13, 0.15, 0.175]),
  wall: material('slate', [0.16, 0.17, 0.2]),
  brass: material('metal', [0.92, 0.66, 0.3], 0.3),
  darkBrass: material('metal', [0.66, 0.44, 0.2], 0.35),
  lamp: material('glow', [13, 8.6, 4.2]),
  amber: material('glass', [0.98, 0.62, 0.2]),
  sea: material('glass', [0.3, 0.78, 0.8]),
  rose: material('glass', [0.92, 0.36, 0.4]),
  clear: material('glass', [0.93, 0.96, 0.97]),
  moss: material('glass', [0.45, 0.8, 0.42]),
} as const;
