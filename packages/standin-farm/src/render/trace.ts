import { materials, type Material } from '../scene/materials.ts';
import type { Scene } from '../scene/scene.ts';
import { emptyHit, Surfaces, type Hit } from './intersect.ts';
import type { Random } from './random.ts';

const MAXIMUM_BOUNCES = 7;
const OCCLUSION_REACH = 1.2;
const GLASS_INDEX = 1.45;

/** The light passes, whose sum is the beauty; `none` is the empty background. */
export type Lobe = 'diffuse' | 'specular' | 'transmission' | 'emission' | 'none';

const FIRST_LOBE: Record<Material['kind'], Lobe> = { slate: 'diffuse', metal: 'specular', glass: 'specular', glow: 'emission' };

/**
 * Follows one path from the camera and adds the light that it brings. Diffuse surfaces look for the
 * window and the lamp with one shadow ray each, and end the path unless light goes on from surface to
 * surface; mirrors and glass carry it on.
 */
export class PathTracer {
  /** Light of the path just traced: red, green, blue, and whether anything was met (alpha). */
  readonly light = new Float64Array(4);
  /** The light pass that the path belongs to, by what its first surface did with it. */
  lobe: Lobe = 'none';
  /** What the path met first; null where it met nothing. */
  first: Material | null = null;
  /** Its colour and normal there; zero where it met nothing. */
  readonly firstAlbedo = new Float64Array(3);
  readonly firstNormal = new Float64Array(3);
  /** Rays followed so far: the work that was done. */
  segments = 0;
  private readonly hit: Hit = emptyHit();
  private readonly through = new Float64Array(3);
  private readonly weight = new Float64Array(3);
  private readonly colour = new Float64Array(3);
  private readonly scene: Scene;
  private readonly surfaces: Surfaces;
  private readonly random: Random;

  constructor(scene: Scene, surfaces: Surfaces, random: Random) {
    this.scene = scene;
    this.surfaces = surfaces;
    this.random = random;
  }

  trace(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): void {
    const { light, weight, hit, random, surfaces } = this;
    light.fill(0);
    weight.fill(1);
    this.lobe = 'none';
    this.first = null;
    this.firstAlbedo.fill(0);
    this.firstNormal.fill(0);
    // What shines was looked for by the surface before.
    let wasLit = false;
    for (let bounce = 0; bounce < MAXIMUM_BOUNCES; bounce++) {
      this.segments++;
      if (!surfaces.intersect(ox, oy, oz, dx, dy, dz, hit)) {
        if (bounce > 0 || this.scene.openSky) this.addSurroundings(ox, oy, oz, dx, dy, dz, wasLit);
        return;
      }
      const { material } = hit;
      if (bounce === 0) {
        light[3] = 1;
        this.first = material;
        this.lobe = FIRST_LOBE[material.kind];
      }
      ox += dx * hit.distance;
      oy += dy * hit.distance;
      oz += dz * hit.distance;
      let { nx, ny, nz } = hit;
      if (bounce === 0) {
        surfaces.colourAt(hit, ox, oy, oz, this.firstAlbedo);
        this.firstNormal[0] = nx;
        this.firstNormal[1] = ny;
        this.firstNormal[2] = nz;
      }
      if (material.kind === 'glow') {
        if (!wasLit) for (let c = 0; c < 3; c++) light[c] += weight[c] * Math.min(material.colour[c], bounce === 0 ? 4 : 20);
        return;
      }
      let cosine = -(dx * nx + dy * ny + dz * nz);
      const entering = cosine > 0;
      if (!entering) {
        nx = -nx;
        ny = -ny;
        nz = -nz;
        cosine = -cosine;
      }
      if (material.kind === 'slate') {
        // A thin polish over the slate mirrors a little, more at a grazing look (Schlick 1994).
        const polish = material === materials.slate ? 0.035 + 0.5 * (1 - cosine) ** 5 : 0;
        if (random.next() >= polish) {
          this.segments += 2;
          surfaces.colourAt(hit, ox, oy, oz, this.colour);
          this.addDirectLight(ox, oy, oz, nx, ny, nz, this.colour);
          if (!this.scene.indirect) return;
          wasLit = true;
          for (let c = 0; c < 3; c++) weight[c] *= this.colour[c];
          const [height, angle] = [2 * random.next() - 1, 2 * Math.PI * random.next()];
          const ring = Math.sqrt(1 - height * height);
          const [tx, ty, tz] = [nx + ring * Math.cos(angle), ny + height, nz + ring * Math.sin(angle)];
          const length = Math.sqrt(tx * tx + ty * ty + tz * tz);
          if (length < 1e-6) return;
          dx = tx / length;
          dy = ty / length;
          dz = tz / length;
          continue;
        }
        if (bounce === 0) this.lobe = 'specular';
      } else if (material.kind === 'glass') {
        const ratio = entering ? 1 / GLASS_INDEX : GLASS_INDEX;
        const sine2 = ratio * ratio * (1 - cosine * cosine);
        const facing = (1 - GLASS_INDEX) / (1 + GLASS_INDEX);
        const mirror = sine2 > 1 ? 1 : facing * facing + (1 - facing * facing) * (1 - (entering ? cosine : Math.sqrt(1 - sine2))) ** 5;
        if (random.next() >= mirror) {
          if (bounce === 0) this.lobe = 'transmission';
          const along = ratio * cosine - Math.sqrt(1 - sine2);
          dx = dx * ratio + nx * along;
          dy = dy * ratio + ny * along;
          dz = dz * ratio + nz * along;
          if (entering) for (let c = 0; c < 3; c++) weight[c] *= material.colour[c];
          wasLit = false;
          continue;
        }
      } else for (let c = 0; c < 3; c++) weight[c] *= material.colour[c];
      wasLit = false;
      dx += 2 * cosine * nx;
      dy += 2 * cosine * ny;
      dz += 2 * cosine * nz;
      const rough = material.roughness;
      if (rough > 0) {
        dx += (random.next() - 0.5) * rough;
        dy += (random.next() - 0.5) * rough;
        dz += (random.next() - 0.5) * rough;
        const length = Math.sqrt(dx * dx + dy * dy + dz * dz);
        dx /= length;
        dy /= length;
        dz /= length;
      }
    }
  }

  /**
   * Looks from a surface into one direction of the half space above it, more often along the
   * normal (cosine-weighted), and tells whether the view is free: 1 or 0.
   */
  openness(x: number, y: number, z: number, nx: number, ny: number, nz: number): number {
    const { random, hit } = this;
    // A point on the unit sphere, moved along the normal, is cosine-weighted (Lambert).
    const height = 2 * random.next() - 1;
    const angle = 2 * Math.PI * random.next();
    const ring = Math.sqrt(1 - height * height);
    const dx = nx + ring * Math.cos(angle);
    const dy = ny + height;
    const dz = nz + ring * Math.sin(angle);
    const length = Math.sqrt(dx * dx + dy * dy + dz * dz);
    if (length < 1e-6) return 1;
    this.segments++;
    return this.surfaces.intersect(x, y, z, dx / length, dy / length, dz / length, hit) && hit.distance < OCCLUSION_REACH ? 0 : 1;
  }

  /** The window where the ray meets it, else the dusk all around. */
  private addSurroundings(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, withoutWindow: boolean): void {
    const { light: window, horizon, zenith } = this.scene;
    if (dy > 0) {
      const t = (window.corner[1] - oy) / dy;
      const x = ox + dx * t - window.corner[0];
      const z = oz + dz * t - window.corner[2];
      if (x >= 0 && z >= 0 && x <= window.edgeA[0] && z <= window.edgeB[2]) {
        if (!withoutWindow) for (let c = 0; c < 3; c++) this.light[c] += this.weight[c] * window.radiance[c];
        return;
      }
    }
    const up = Math.max(0, dy);
    for (let c = 0; c < 3; c++) this.light[c] += this.weight[c] * (horizon[c] + (zenith[c] - horizon[c]) * up);
  }

  private addDirectLight(x: number, y: number, z: number, nx: number, ny: number, nz: number, albedo: Float64Array): void {
    const { light: window, lamp, horizon, indirect } = this.scene;
    const { random, light, weight } = this;
    if (!indirect) for (let c = 0; c < 3; c++) light[c] += weight[c] * albedo[c] * horizon[c] * 0.8;
    const [u, v] = [random.next(), random.next()];
    const area = window.edgeA[0] * window.edgeB[2];
    this.addSample(
      x,
      y,
      z,
      nx,
      ny,
      nz,
      albedo,
      window.corner[0] + window.edgeA[0] * u,
      window.corner[1],
      window.corner[2] + window.edgeB[2] * v,
      window.normal[0],
      window.normal[1],
      window.normal[2],
      area,
      window.radiance,
    );
    if (!lamp) return;
    // A point on the lamp's sphere, even over its surface.
    const height = 2 * random.next() - 1;
    const angle = 2 * Math.PI * random.next();
    const ring = Math.sqrt(1 - height * height);
    const [lx, ly, lz] = [ring * Math.cos(angle), height, ring * Math.sin(angle)];
    const { centre, radius, material } = lamp;
    this.addSample(
      x,
      y,
      z,
      nx,
      ny,
      nz,
      albedo,
      centre[0] + lx * radius,
      centre[1] + ly * radius,
      centre[2] + lz * radius,
      lx,
      ly,
      lz,
      4 * Math.PI * radius * radius,
      material.colour,
    );
  }

  private addSample(
    x: number,
    y: number,
    z: number,
    nx: number,
    ny: number,
    nz: number,
    albedo: Float64Array,
    px: number,
    py: number,
    pz: number,
    lx: number,
    ly: number,
    lz: number,
    area: number,
    radiance: readonly number[],
  ): void {
    let dx = px - x;
    let dy = py - y;
    let dz = pz - z;
    const square = dx * dx + dy * dy + dz * dz;
    const length = Math.sqrt(square);
    dx /= length;
    dy /= length;
    dz /= length;
    const here = dx * nx + dy * ny + dz * nz;
    const there = -(dx * lx + dy * ly + dz * lz);
    if (here <= 0 || there <= 0) return;
    if (!this.surfaces.transmit(x, y, z, dx, dy, dz, length, this.through)) return;
    const geometry = (here * there * area) / (square * Math.PI);
    for (let c = 0; c < 3; c++) this.light[c] += this.weight[c] * albedo[c] * radiance[c] * this.through[c] * geometry;
  }
}
