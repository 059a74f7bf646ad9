import { materials, type Material } from '../scene/materials.ts';
import type { Scene, Sphere } from '../scene/scene.ts';

/** The nearest surface that a ray meets; filled in place, because millions are asked for. */
export interface Hit {
  distance: number;
  nx: number;
  ny: number;
  nz: number;
  material: Material;
  /** Which sphere (from 0 up) or ring set (from -1 down) was met; NaN for the wall. */
  part: number;
}

/** A hit to be filled in. */
export function emptyHit(): Hit {
  return { distance: 0, nx: 0, ny: 0, nz: 0, material: materials.slate, part: NaN };
}

const NEAR = 1e-4;

/** Numbers a sphere: centre, squared radius. */
const SPHERE = 4;
/** Numbers a cluster: hull's centre, squared radius, first and end index into the spheres. */
const CLUSTER = 6;
/** Numbers a ring set: centre, normal, first and end index into the bands. */
const RING = 8;

/** A scene's surfaces laid out flat, so that the innermost loops read numbers in a row. */
export class Surfaces {
  private readonly spheres: Float64Array;
  private readonly clusters: Float64Array;
  private readonly rings: Float64Array;
  /** Squared inner and outer radii. */
  private readonly bands: Float64Array;
  private readonly sphereMaterials: readonly Material[];
  private readonly ringMaterials: readonly Material[];
  private readonly wallRadius: number;
  private readonly wallMaterial: Material | null;

  constructor(scene: Scene) {
    const all: Sphere[] = scene.clusters.flatMap((cluster) => cluster.spheres);
    let next = 0;
    this.clusters = Float64Array.from(
      scene.clusters.flatMap(({ hull, spheres }) => {
        const first = next;
        next += spheres.length * SPHERE;
        return [...hull.centre, hull.radius * hull.radius, first, next];
      }),
    );
    this.spheres = Float64Array.from(all.flatMap(({ centre, radius }) => [...centre, radius * radius]));
    this.sphereMaterials = all.map((sphere) => sphere.material);
    next = 0;
    this.rings = Float64Array.from(
      scene.rings.flatMap(({ centre, normal, bands }) => {
        const first = next;
        next += bands.length * 2;
        return [...centre, ...normal, first, next];
      }),
    );
    this.bands = Float64Array.from(scene.rings.flatMap(({ bands }) => bands.flatMap(([inner, outer]) => [inner * inner, outer * outer])));
    this.ringMaterials = scene.rings.map((ring) => ring.material);
    this.wallRadius = scene.wall?.radius ?? 0;
    this.wallMaterial = scene.wall?.material ?? null;
  }

  /** The albedo of a surface where it was met. A lamp has none of its own; white keeps whoever divides by it out of trouble. @param colour receives it */
  colourAt({ material, part }: Hit, x: number, y: number, z: number, colour: Float64Array): void {
    const { pattern, kind } = material;
    if (kind === 'glow') {
      colour.fill(1);
      return;
    }
    const from = part >= 0 ? part * SPHERE : -1;
    const { spheres } = this;
    const share = !pattern ? 1 : from < 0 ? pattern(x, y, z) : pattern(x - spheres[from], y - spheres[from + 1], z - spheres[from + 2]);
    for (let c = 0; c < 3; c++) colour[c] = material.colour[c] * share;
  }

  /** Finds the nearest surface along a ray of length 1; false where there is none. */
  intersect(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, hit: Hit): boolean {
    const { spheres, clusters, rings } = this;
    let nearest = Infinity;
    let sphere = -1;
    let ring = -1;
    for (let c = 0; c < clusters.length; c += CLUSTER) {
      const hx = ox - clusters[c];
      const hy = oy - clusters[c + 1];
      const hz = oz - clusters[c + 2];
      const h = hx * dx + hy * dy + hz * dz;
      if (h * h - (hx * hx + hy * hy + hz * hz - clusters[c + 3]) < 0) continue;
      const end = clusters[c + 5];
      for (let i = clusters[c + 4]; i < end; i += SPHERE) {
        const cx = ox - spheres[i];
        const cy = oy - spheres[i + 1];
        const cz = oz - spheres[i + 2];
        const b = cx * dx + cy * dy + cz * dz;
        const root = b * b - (cx * cx + cy * cy + cz * cz - spheres[i + 3]);
        if (root < 0) continue;
        const reach = Math.sqrt(root);
        let t = -b - reach;
        if (t < NEAR) t = -b + reach;
        if (t < NEAR || t >= nearest) continue;
        nearest = t;
        sphere = i;
      }
    }
    for (let r = 0; r < rings.length; r += RING) {
      const t = this.ringDistance(r, ox, oy, oz, dx, dy, dz, NEAR, nearest);
      if (t === 0) continue;
      nearest = t;
      ring = r;
    }
    if (nearest < Infinity) this.fillHit(hit, nearest, sphere, ring, ox + dx * nearest, oy + dy * nearest, oz + dz * nearest);
    else return this.intersectWall(ox, oy, oz, dx, dy, dz, hit);
    return true;
  }

  /** Distance to the rings of one plane between two bounds; 0 where the ray meets none. */
  private ringDistance(r: number, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, from: number, to: number): number {
    const { rings, bands } = this;
    const slope = dx * rings[r + 3] + dy * rings[r + 4] + dz * rings[r + 5];
    if (slope > -1e-6 && slope < 1e-6) return 0;
    const t = ((rings[r] - ox) * rings[r + 3] + (rings[r + 1] - oy) * rings[r + 4] + (rings[r + 2] - oz) * rings[r + 5]) / slope;
    if (!(t >= from && t < to)) return 0;
    const px = ox + dx * t - rings[r];
    const py = oy + dy * t - rings[r + 1];
    const pz = oz + dz * t - rings[r + 2];
    const square = px * px + py * py + pz * pz;
    for (let b = rings[r + 6]; b < rings[r + 7]; b += 2) if (square >= bands[b] && square <= bands[b + 1]) return t;
    return 0;
  }

  private fillHit(hit: Hit, distance: number, sphere: number, ring: number, x: number, y: number, z: number): void {
    hit.distance = distance;
    hit.part = ring >= 0 ? -1 - ring / RING : sphere / SPHERE;
    if (ring >= 0) {
      hit.nx = this.rings[ring + 3];
      hit.ny = this.rings[ring + 4];
      hit.nz = this.rings[ring + 5];
      hit.material = this.ringMaterials[ring / RING]!;
      return;
    }
    const radius = Math.sqrt(this.spheres[sphere + 3]);
    hit.nx = (x - this.spheres[sphere]) / radius;
    hit.ny = (y - this.spheres[sphere + 1]) / radius;
    hit.nz = (z - this.spheres[sphere + 2]) / radius;
    hit.material = this.sphereMaterials[sphere / SPHERE]!;
  }

  /** The wall is a sphere around the origin, met from inside when nothing else is. */
  private intersectWall(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, hit: Hit): boolean {
    if (!this.wallMaterial) return false;
    const b = ox * dx + oy * dy + oz * dz;
    const t = -b + Math.sqrt(b * b - (ox * ox + oy * oy + oz * oz - this.wallRadius * this.wallRadius));
    hit.distance = t;
    hit.part = NaN;
    hit.nx = (ox + dx * t) / this.wallRadius;
    hit.ny = (oy + dy * t) / this.wallRadius;
    hit.nz = (oz + dz * t) / this.wallRadius;
    hit.material = this.wallMaterial;
    return true;
  }

  /**
   * How much light passes between two points, by colour: nothing through brass and slate, the
   * glass's own colour through glass.
   *
   * @param through receives the three shares
   * @returns false where nothing passes
   */
  transmit(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, length: number, through: Float64Array): boolean {
    const { spheres, clusters, rings } = this;
    through[0] = 1;
    through[1] = 1;
    through[2] = 1;
    for (let r = 0; r < rings.length; r += RING) if (this.ringDistance(r, ox, oy, oz, dx, dy, dz, NEAR, length - NEAR) > 0) return false;
    for (let c = 0; c < clusters.length; c += CLUSTER) {
      const hx = ox - clusters[c];
      const hy = oy - clusters[c + 1];
      const hz = oz - clusters[c + 2];
      const h = hx * dx + hy * dy + hz * dz;
      if (h * h - (hx * hx + hy * hy + hz * hz - clusters[c + 3]) < 0) continue;
      const end = clusters[c + 5];
      for (let i = clusters[c + 4]; i < end; i += SPHERE) {
        const cx = ox - spheres[i];
        const cy = oy - spheres[i + 1];
        const cz = oz - spheres[i + 2];
        const b = cx * dx + cy * dy + cz * dz;
        const root = b * b - (cx * cx + cy * cy + cz * cz - spheres[i + 3]);
        if (root < 0) continue;
        const reach = Math.sqrt(root);
        const t = -b - reach > NEAR ? -b - reach : -b + reach;
        if (t < NEAR || t > length - NEAR) continue;
        const { kind, colour } = this.sphereMaterials[i / SPHERE]!;
        if (kind === 'glow') continue;
        if (kind !== 'glass') return false;
        for (let k = 0; k < 3; k++) through[k] *= colour[k] * 0.8;
      }
    }
    return true;
  }
}
