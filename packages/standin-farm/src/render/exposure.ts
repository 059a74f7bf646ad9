import { makeScene, type View } from '../scene/orrery.ts';
import type { Scene } from '../scene/scene.ts';
import { makeStudy, type StudyName } from '../scene/studies.ts';
import { CameraRays, type Lens } from './camera-rays.ts';
import { Surfaces } from './intersect.ts';
import type { Random } from './random.ts';
import { PathTracer } from './trace.ts';

/** What is seen at one moment of a frame. */
export interface Instant {
  readonly scene: Scene;
  readonly surfaces: Surfaces;
  readonly rays: CameraRays;
  readonly tracer: PathTracer;
}

/** How a frame is exposed. */
export interface ExposureSettings {
  /** A look at the orrery, or a study. */
  readonly view: View | StudyName;
  /** 0 at the shot's first frame, 1 one frame after its last; the middle of the exposure. */
  readonly time: number;
  /** How much of `time` one frame is; motion vectors look that far back. */
  readonly step?: number;
  readonly width: number;
  readonly height: number;
  /** How much of a frame the shutter is open: what moves is blurred, each sample seeing a moment of its own. */
  readonly shutter?: number;
  /** Without it all is in focus. */
  readonly lens?: Lens;
}

/** Moments of an open shutter that samples see. */
const INSTANTS = 24;

/** The moments that a frame's samples see, and the places on the lens that they come through. */
export class Exposure {
  /** The middle one, through the middle of the lens: what vectors and depth are of, and features that are no means. */
  readonly middle: Instant;
  /** Where the path last sent began. */
  private readonly origin = new Float64Array(3);
  private readonly instants: readonly Instant[];
  private readonly random: Random;
  private readonly lens: Lens | undefined;

  constructor({ view, time, step = 0, shutter = 0, lens, width, height }: ExposureSettings, random: Random) {
    const at = (moment: number): Instant => {
      const scene = sceneAt(view, moment);
      const surfaces = new Surfaces(scene);
      return { scene, surfaces, rays: new CameraRays(scene.camera, width, height), tracer: new PathTracer(scene, surfaces, random) };
    };
    this.random = random;
    this.lens = lens;
    this.middle = at(time);
    const open = shutter * step;
    this.instants = open > 0 ? Array.from({ length: INSTANTS }, (_, i) => at(time + open * ((i + 0.5) / INSTANTS - 0.5))) : [this.middle];
  }

  /** Rays followed so far. */
  get segments(): number {
    return this.instants.reduce((sum, { tracer }) => sum + tracer.segments, 0);
  }

  /** Sends a path through a place of the picture, at some moment and through some place of the lens; its tracer knows what it met. */
  trace(px: number, py: number): PathTracer {
    const { random, lens, origin, instants } = this;
    const { scene, rays, tracer } = instants.length === 1 ? instants[0]! : instants[Math.floor(random.next() * instants.length)]!;
    rays.aim(px, py);
    origin.set(scene.camera.position);
    if (lens) {
      const [radius, angle] = [Math.sqrt(random.next()), 2 * Math.PI * random.next()];
      rays.through(lens, radius * Math.cos(angle), radius * Math.sin(angle), origin);
    }
    tracer.trace(origin[0]!, origin[1]!, origin[2]!, rays.x, rays.y, rays.z);
    return tracer;
  }
}

export function sceneAt(view: View | StudyName, time: number): Scene {
  return typeof view === 'string' ? makeStudy(view, time) : makeScene(view, time);
}
