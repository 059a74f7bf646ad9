import { materials } from '../scene/materials.ts';
import { makeScene, type Scene, type View } from '../scene/orrery.ts';
import { Surfaces, type Hit } from './intersect.ts';
import { Random } from './random.ts';
import { PathTracer } from './trace.ts';

/** What to render. */
export interface FrameSettings {
  readonly view: View;
  /** 0 at the shot's first frame, 1 one frame after its last. */
  readonly time: number;
  readonly width: number;
  readonly height: number;
  readonly samples: number;
  readonly seed: number;
}

/** The passes of one rendered frame, a value a pixel and channel, row by row. */
export interface RenderedFrame {
  readonly width: number;
  readonly height: number;
  /** Scene-linear red, green, blue and alpha, premultiplied, interleaved. */
  readonly beauty: Float32Array;
  /** Distance along the camera's axis; 1e10 where nothing is met. */
  readonly depth: Float32Array;
  /** World-space x, y, z, interleaved; zero where nothing is met. */
  readonly normal: Float32Array;
}

/** What depth says where a ray meets nothing. */
const NOTHING = 1e10;

/** Renders one frame. The same settings give the same values. */
export function renderFrame(settings: FrameSettings): RenderedFrame {
  const { width, height, samples, seed } = settings;
  const scene = makeScene(settings.view, settings.time);
  const ray = cameraRays(scene, width, height);
  const beauty = new Float32Array(width * height * 4);
  const depth = new Float32Array(width * height);
  const normal = new Float32Array(width * height * 3);
  const random = new Random();
  const surfaces = new Surfaces(scene);
  const tracer = new PathTracer(scene, surfaces, random);
  const hit: Hit = { distance: 0, nx: 0, ny: 0, nz: 0, material: materials.slate };
  const [ox, oy, oz] = scene.camera.position;
  const frameSeed = Math.round(settings.time * 1e6);
  const across = Math.ceil(Math.sqrt(samples));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const pixel = y * width + x;
      random.seed(seed, frameSeed, pixel);
      for (let s = 0; s < samples; s++) {
        // Samples are spread over a grid in the pixel, each somewhere in its cell.
        ray.aim(x + ((s % across) + random.next()) / across, y + (Math.floor(s / across) + random.next()) / across);
        tracer.trace(ox, oy, oz, ray.x, ray.y, ray.z);
        for (let c = 0; c < 4; c++) beauty[pixel * 4 + c] += tracer.light[c] / samples;
      }
      ray.aim(x + 0.5, y + 0.5);
      if (surfaces.intersect(ox, oy, oz, ray.x, ray.y, ray.z, hit)) {
        depth[pixel] = hit.distance * ray.alongAxis();
        normal.set([hit.nx, hit.ny, hit.nz], pixel * 3);
      } else depth[pixel] = NOTHING;
    }
  }
  return { width, height, beauty, depth, normal };
}

function cameraRays(scene: Scene, width: number, height: number) {
  const { position, target, spread } = scene.camera;
  const unit = (v: number[]) => {
    const length = Math.hypot(...v);
    return v.map((value) => value / length);
  };
  const forward = unit([target[0] - position[0], target[1] - position[1], target[2] - position[2]]);
  const right = unit([-forward[2], 0, forward[0]]);
  const up = [right[1] * forward[2] - right[2] * forward[1], right[2] * forward[0] - right[0] * forward[2], right[0] * forward[1] - right[1] * forward[0]];
  const ray = {
    x: 0,
    y: 0,
    z: 0,
    /** Points the ray through a place of the picture, in pixels from its upper left corner. */
    aim(px: number, py: number) {
      const a = ((px - width / 2) / height) * spread;
      const b = ((height / 2 - py) / height) * spread;
      ray.x = forward[0] + right[0] * a + up[0] * b;
      ray.y = forward[1] + right[1] * a + up[1] * b;
      ray.z = forward[2] + right[2] * a + up[2] * b;
      const length = Math.sqrt(ray.x * ray.x + ray.y * ray.y + ray.z * ray.z);
      ray.x /= length;
      ray.y /= length;
      ray.z /= length;
    },
    alongAxis: () => ray.x * forward[0] + ray.y * forward[1] + ray.z * forward[2],
  };
  return ray;
}
