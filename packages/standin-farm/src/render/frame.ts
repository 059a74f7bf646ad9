import { CameraRays } from './camera-rays.ts';
import { Exposure, sceneAt, type ExposureSettings } from './exposure.ts';
import { emptyHit, type Surfaces } from './intersect.ts';
import { EarlierPlaces } from './motion.ts';
import { cellOf, WHOLE_PIXEL } from './pixel-cells.ts';
import { Random } from './random.ts';
import type { PathTracer } from './trace.ts';

/** What to render. */
export interface FrameSettings extends ExposureSettings {
  /** Samples a pixel; the most of them where `segments` ends the frame earlier. */
  readonly samples: number;
  readonly seed: number;
  /** Rays after which no further sample is begun: a frame that is stopped by its time. */
  readonly segments?: number;
  /** Without it the occlusion pass stays empty, which costs nothing. */
  readonly occlusion?: boolean;
  /** The samples are taken in two independent halves, each spread over the pixel by itself, and kept apart as well. */
  readonly halves?: boolean;
  /** Albedo and normals are means over the samples, as most renderers write them, not what is seen through the pixel's middle. */
  readonly meanFeatures?: boolean;
  /** Samples lie anywhere in their pixel, not each in a part of its own. */
  readonly scattered?: boolean;
  /** Each frame draws the same numbers, so that the noise stands still in the picture. */
  readonly heldSeeds?: boolean;
}

/** Components of each pass. The light passes add up to the beauty's colours. */
export const PASS_COMPONENTS = {
  beauty: ['R', 'G', 'B', 'A'],
  half1: ['R', 'G', 'B', 'A'],
  half2: ['R', 'G', 'B', 'A'],
  diffuse: ['R', 'G', 'B'],
  specular: ['R', 'G', 'B'],
  transmission: ['R', 'G', 'B'],
  emission: ['R', 'G', 'B'],
  albedo: ['R', 'G', 'B'],
  normal: ['X', 'Y', 'Z'],
  depth: ['Z'],
  motion: ['X', 'Y'],
  occlusion: ['Y'],
  glass: ['Y'],
  brass: ['Y'],
} as const;
export type PassName = keyof typeof PASS_COMPONENTS;
export const passNames = Object.keys(PASS_COMPONENTS) as PassName[];

/** What a brief calls the passes that an assay is made with. */
export const assayedRoles = {
  beauty: 'beauty',
  diffuse: 'light',
  specular: 'light',
  transmission: 'light',
  emission: 'light',
  albedo: 'albedo',
  normal: 'normal',
  depth: 'depth',
  motion: 'motion',
  glass: 'matte',
  brass: 'id',
} as const satisfies Partial<Record<PassName, string>>;

/**
 * One rendered frame: its passes as values a pixel and component, row by row. Colours are
 * scene-linear, the beauty premultiplied; normals in world space; depth along the camera's axis,
 * 1e10 where nothing is met; motion in pixels, right and down, to where the point stood a frame
 * earlier; mattes are the share of a pixel that is glass or brass.
 */
export interface RenderedFrame extends Readonly<Record<PassName, Float32Array>> {
  readonly width: number;
  readonly height: number;
  /** Samples a pixel that were taken. */
  readonly samples: number;
  /** Rays followed: the work that it took. */
  readonly segments: number;
}

/** Follows a frame as it is rendered; called after every sample of the whole picture. */
export type FrameWatch = (samplesDone: number, segments: number) => 'go on' | 'stop';

/** What depth says where a ray meets nothing. */
const NOTHING = 1e10;
const LIGHTS = ['diffuse', 'specular', 'transmission', 'emission'] as const;

/**
 * Renders one frame. The same settings give the same values.
 *
 * @returns null when the watch said stop
 */
export function renderFrame(settings: FrameSettings): RenderedFrame;
export function renderFrame(settings: FrameSettings, watch: FrameWatch): RenderedFrame | null;
export function renderFrame(settings: FrameSettings, watch?: FrameWatch): RenderedFrame | null {
  const { width, height } = settings;
  const count = width * height;
  const passes = Object.fromEntries(passNames.map((name) => [name, new Float32Array(count * PASS_COMPONENTS[name].length)])) as Record<PassName, Float32Array>;
  const random = new Random();
  const exposure = new Exposure(settings, random);
  let samples = 0;
  while (samples < settings.samples && !(samples > 0 && exposure.segments >= (settings.segments ?? Infinity))) {
    addSample(settings, samples, exposure, random, passes);
    samples++;
    if (watch?.(samples, exposure.segments) === 'stop') return null;
  }
  for (const name of ['beauty', ...LIGHTS, 'glass', 'brass', 'albedo', 'normal'] as const) {
    const values = passes[name];
    for (let i = 0; i < values.length; i++) values[i] /= samples;
  }
  if (settings.halves) {
    // Of an odd number of samples the first half has one more.
    passes.half1.forEach((value, i) => (passes.half1[i] = value / Math.ceil(samples / 2)));
    passes.half2.forEach((value, i) => (passes.half2[i] = value / Math.max(1, Math.floor(samples / 2))));
  }
  const { scene, surfaces, rays, tracer } = exposure.middle;
  const earlier = sceneAt(settings.view, settings.time - (settings.step ?? 0));
  const places = new EarlierPlaces(scene, earlier);
  lookOnce(settings, scene.camera.position, rays, new CameraRays(earlier.camera, width, height), surfaces, places, passes);
  if (settings.occlusion) addOcclusion(settings, samples, scene.camera.position, rays, surfaces, tracer, random, passes.occlusion);
  return { width, height, samples, segments: exposure.segments, ...passes };
}

/** Adds one sample to every pixel of the passes that are sampled. */
function addSample(
  { width, height, samples, segments, seed, time, halves = false, meanFeatures = false, scattered = false, heldSeeds = false }: FrameSettings,
  sample: number,
  exposure: Exposure,
  random: Random,
  passes: Record<PassName, Float32Array>,
): void {
  const frameSeed = heldSeeds ? 0 : Math.round(time * 1e6);
  // Of an odd number of samples the first half has one more.
  const count = halves ? Math.ceil((samples - (sample % 2)) / 2) : samples;
  const cell = scattered ? WHOLE_PIXEL : cellOf(halves ? sample >> 1 : sample, count, segments !== undefined);
  const { beauty, glass, brass, albedo, normal } = passes;
  const half = halves ? passes[sample % 2 === 0 ? 'half1' : 'half2'] : null;
  const { openSky } = exposure.middle.scene;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const pixel = y * width + x;
      random.seed(seed, frameSeed, pixel, sample);
      const tracer = exposure.trace(x + (cell.column + random.next()) / cell.across, y + (cell.row + random.next() * cell.height) / cell.down);
      const { light } = tracer;
      if (openSky) light[3] = 1;
      for (let c = 0; c < 4; c++) beauty[pixel * 4 + c] += light[c];
      if (meanFeatures) {
        for (let c = 0; c < 3; c++) {
          albedo[pixel * 3 + c] += tracer.firstAlbedo[c];
          normal[pixel * 3 + c] += tracer.firstNormal[c];
        }
      }
      if (half) for (let c = 0; c < 4; c++) half[pixel * 4 + c] += light[c];
      if (tracer.lobe === 'none') continue;
      const lobe = passes[tracer.lobe];
      for (let c = 0; c < 3; c++) lobe[pixel * 3 + c] += light[c];
      const { kind } = tracer.first!;
      if (kind === 'glass') glass[pixel]++;
      else if (kind === 'metal') brass[pixel]++;
    }
  }
}

/** Fills the passes that are told by one look through each pixel's centre, and so have no noise. */
function lookOnce(
  { width, height, meanFeatures = false }: FrameSettings,
  [ox, oy, oz]: readonly [number, number, number],
  rays: CameraRays,
  raysEarlier: CameraRays,
  surfaces: Surfaces,
  places: EarlierPlaces,
  { depth, normal, albedo, motion }: Record<PassName, Float32Array>,
): void {
  const hit = emptyHit();
  const colour = new Float64Array(3);
  for (let pixel = 0; pixel < width * height; pixel++) {
    const [px, py] = [(pixel % width) + 0.5, Math.floor(pixel / width) + 0.5];
    rays.aim(px, py);
    if (!surfaces.intersect(ox, oy, oz, rays.x, rays.y, rays.z, hit)) {
      depth[pixel] = NOTHING;
      continue;
    }
    depth[pixel] = hit.distance * rays.alongAxis();
    const [wx, wy, wz] = [ox + rays.x * hit.distance, oy + rays.y * hit.distance, oz + rays.z * hit.distance];
    if (!meanFeatures) {
      normal.set([hit.nx, hit.ny, hit.nz], pixel * 3);
      surfaces.colourAt(hit, wx, wy, wz, colour);
      albedo.set(colour, pixel * 3);
    }
    const [x, y, z] = places.of(hit.part, wx, wy, wz);
    const [ex, ey] = raysEarlier.placeOf(x, y, z);
    motion[pixel * 2] = ex - px;
    motion[pixel * 2 + 1] = ey - py;
  }
}

function addOcclusion(
  { width, height, seed, time }: FrameSettings,
  samples: number,
  [ox, oy, oz]: readonly [number, number, number],
  rays: CameraRays,
  surfaces: Surfaces,
  tracer: PathTracer,
  random: Random,
  occlusion: Float32Array,
): void {
  const hit = emptyHit();
  for (let pixel = 0; pixel < width * height; pixel++) {
    rays.aim((pixel % width) + 0.5, Math.floor(pixel / width) + 0.5);
    if (!surfaces.intersect(ox, oy, oz, rays.x, rays.y, rays.z, hit)) {
      occlusion[pixel] = 1;
      continue;
    }
    const [x, y, z] = [ox + rays.x * hit.distance, oy + rays.y * hit.distance, oz + rays.z * hit.distance];
    random.seed(seed, Math.round(time * 1e6), pixel, -1);
    for (let s = 0; s < samples; s++) occlusion[pixel] += tracer.openness(x, y, z, hit.nx, hit.ny, hit.nz) / samples;
  }
}
