import type { Camera } from '../scene/scene.ts';

/** A lens that is open: things nearer or farther than its focus are blurred. */
export interface Lens {
  /** Of its opening, in the scene's units. */
  readonly radius: number;
  /** How far the plane in focus is, along the camera's axis. */
  readonly focus: number;
}

/** The camera's rays through places of the picture, and places of the picture from points. */
export class CameraRays {
  /** Direction of the ray last aimed, of length 1. */
  x = 0;
  y = 0;
  z = 0;
  private readonly camera: Camera;
  private readonly width: number;
  private readonly height: number;
  private readonly forward: readonly number[];
  private readonly right: readonly number[];
  private readonly up: readonly number[];

  constructor(camera: Camera, width: number, height: number) {
    const { position, target } = camera;
    this.camera = camera;
    this.width = width;
    this.height = height;
    const forward = unit([target[0] - position[0], target[1] - position[1], target[2] - position[2]]);
    const right = unit([-forward[2], 0, forward[0]]);
    this.forward = forward;
    this.right = right;
    this.up = [right[1] * forward[2] - right[2] * forward[1], right[2] * forward[0] - right[0] * forward[2], right[0] * forward[1] - right[1] * forward[0]];
  }

  /** Points the ray through a place of the picture, in pixels from its upper left corner. */
  aim(px: number, py: number): void {
    const { forward, right, up, width, height } = this;
    const a = ((px - width / 2) / height) * this.camera.spread;
    const b = ((height / 2 - py) / height) * this.camera.spread;
    const x = forward[0] + right[0] * a + up[0] * b;
    const y = forward[1] + right[1] * a + up[1] * b;
    const z = forward[2] + right[2] * a + up[2] * b;
    const length = Math.sqrt(x * x + y * y + z * z);
    this.x = x / length;
    this.y = y / length;
    this.z = z / length;
  }

  /**
   * Moves the start of the ray last aimed to a place on a lens, and turns it to where it meets the plane in focus.
   *
   * @param u place on the lens as a share of its radius, to the right; `v` up
   * @param origin where the ray begins; written
   */
  through({ radius, focus }: Lens, u: number, v: number, origin: Float64Array): void {
    const { right, up } = this;
    const distance = focus / this.alongAxis();
    const aimed = [this.x, this.y, this.z];
    const turned = aimed.map((part, c) => {
      const beside = radius * (u * right[c] + v * up[c]);
      origin[c] = this.camera.position[c] + beside;
      return part * distance - beside;
    });
    [this.x, this.y, this.z] = unit(turned) as [number, number, number];
  }

  /** Cosine between the ray and the camera's axis. */
  alongAxis(): number {
    return this.x * this.forward[0] + this.y * this.forward[1] + this.z * this.forward[2];
  }

  /** Where a point stands in the picture, in pixels from its upper left corner. */
  placeOf(x: number, y: number, z: number): [px: number, py: number] {
    const [dx, dy, dz] = [x - this.camera.position[0], y - this.camera.position[1], z - this.camera.position[2]];
    const along = (axis: readonly number[]) => dx * axis[0] + dy * axis[1] + dz * axis[2];
    const scale = this.height / this.camera.spread / along(this.forward);
    return [this.width / 2 + along(this.right) * scale, this.height / 2 - along(this.up) * scale];
  }
}

function unit(v: readonly number[]): number[] {
  const length = Math.hypot(...v);
  return v.map((value) => value / length);
}
