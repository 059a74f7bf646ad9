import type { Colour, Material } from './materials.ts';

export type Vector = readonly [number, number, number];

export interface Sphere {
  readonly centre: Vector;
  readonly radius: number;
  readonly material: Material;
}

/** Spheres that stand close together; a ray that misses the hull misses all of them. */
export interface Cluster {
  readonly hull: { readonly centre: Vector; readonly radius: number };
  readonly spheres: readonly Sphere[];
}

/** Flat rings in one plane around one centre; a disc where an inner radius is 0. */
export interface Rings {
  readonly centre: Vector;
  readonly normal: Vector;
  /** Inner and outer radius of each, from the inside out. */
  readonly bands: readonly (readonly [inner: number, outer: number])[];
  readonly material: Material;
}

export interface Camera {
  readonly position: Vector;
  readonly target: Vector;
  /** Height of the picture plane at distance 1. */
  readonly spread: number;
}

/** The window above: a rectangle that shines downwards. */
export interface AreaLight {
  readonly corner: Vector;
  readonly edgeA: Vector;
  readonly edgeB: Vector;
  readonly normal: Vector;
  readonly radiance: Colour;
}

/** Everything that a frame is rendered from. */
export interface Scene {
  readonly clusters: readonly Cluster[];
  /** The lamp room around everything; it shades nothing. */
  readonly wall: Sphere | null;
  readonly rings: readonly Rings[];
  readonly light: AreaLight;
  /** A sphere that shines and is looked for by light rays. */
  readonly lamp: Sphere | null;
  /** Light goes on from surface to surface; otherwise what is all around stands for it. */
  readonly indirect: boolean;
  /** The camera sees what is all around where it meets nothing. */
  readonly openSky: boolean;
  readonly camera: Camera;
  /** Light from all around, seen by secondary rays: colour at the horizon and overhead. */
  readonly horizon: Colour;
  readonly zenith: Colour;
}
