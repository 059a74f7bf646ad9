import type { Material } from '../scene/materials.ts';
import type { Scene } from '../scene/orrery.ts';

/** The nearest surface that a ray meets; filled in place, because millions are asked for. */
export interface Hit {
  distance: number;
  nx: number;
  ny: number;
  nz: number;
  material: Material;
}

const NEAR = 1e-4;

/** Finds the nearest surface along a ray of length 1; false where there is none. */
export function intersect(scene: Scene, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, hit: Hit): boolean {
  let nearest = Infinity;
  for (const sphere of scene.spheres) {
    const { centre, radius } = sphere;
    const cx = ox - centre[0];
    const cy = oy - centre[1];
    const cz = oz - centre[2];
    const b = cx * dx + cy * dy + cz * dz;
    const c = cx * cx + cy * cy + cz * cz - radius * radius;
    const root = b * b - c;
    if (root < 0) continue;
    const reach = Math.sqrt(root);
    let t = -b - reach;
    if (t < NEAR) t = -b + reach;
    if (t < NEAR || t >= nearest) continue;
    nearest = t;
    hit.material = sphere.material;
    hit.nx = (cx + dx * t) / radius;
    hit.ny = (cy + dy * t) / radius;
    hit.nz = (cz + dz * t) / radius;
  }
  for (const ring of scene.rings) {
    const { centre, normal } = ring;
    const slope = dx * normal[0] + dy * normal[1] + dz * normal[2];
    if (slope > -1e-6 && slope < 1e-6) continue;
    const t = ((centre[0] - ox) * normal[0] + (centre[1] - oy) * normal[1] + (centre[2] - oz) * normal[2]) / slope;
    if (t < NEAR || t >= nearest) continue;
    const px = ox + dx * t - centre[0];
    const py = oy + dy * t - centre[1];
    const pz = oz + dz * t - centre[2];
    const square = px * px + py * py + pz * pz;
    if (square > ring.outerRadius * ring.outerRadius || square < ring.innerRadius * ring.innerRadius) continue;
    nearest = t;
    hit.material = ring.material;
    hit.nx = normal[0];
    hit.ny = normal[1];
    hit.nz = normal[2];
  }
  hit.distance = nearest;
  return nearest < Infinity;
}

/**
 * How much light passes between two points, by colour: nothing through brass and slate, the
 * glass's own colour through glass.
 *
 * @param through receives the three shares
 */
export function transmittance(
  scene: Scene, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, length: number, through: Float64Array,
): void {
  through.fill(1);
  for (const { centre, radius, material } of scene.spheres) {
    if (material.kind === 'glow') continue;
    const cx = ox - centre[0];
    const cy = oy - centre[1];
    const cz = oz - centre[2];
    const b = cx * dx + cy * dy + cz * dz;
    const root = b * b - (cx * cx + cy * cy + cz * cz - radius * radius);
    if (root < 0) continue;
    const reach = Math.sqrt(root);
    const t = -b - reach > NEAR ? -b - reach : -b + reach;
    if (t < NEAR || t > length - NEAR) continue;
    if (material.kind !== 'glass') {
      through.fill(0);
      return;
    }
    for (let c = 0; c < 3; c++) through[c] *= material.colour[c] * 0.8;
  }
  for (const { centre, normal, innerRadius, outerRadius } of scene.rings) {
    const slope = dx * normal[0] + dy * normal[1] + dz * normal[2];
    if (slope === 0) continue;
    const t = ((centre[0] - ox) * normal[0] + (centre[1] - oy) * normal[1] + (centre[2] - oz) * normal[2]) / slope;
    if (t < NEAR || t > length - NEAR) continue;
    const square = (ox + dx * t - centre[0]) ** 2 + (oy + dy * t - centre[1]) ** 2 + (oz + dz * t - centre[2]) ** 2;
    if (square <= outerRadius * outerRadius && square >= innerRadius * innerRadius) {
      through.fill(0);
      return;
    }
  }
}
