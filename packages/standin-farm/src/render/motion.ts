import type { Scene, Sphere } from '../scene/scene.ts';

/**
 * Where points of the scene stood one frame earlier. Spheres keep their look while they move, so
 * their points move with the centre; the tilted ring turns about the upright axis; all else stands.
 */
export class EarlierPlaces {
  private readonly now: readonly Sphere[];
  private readonly earlier: readonly Sphere[];
  private readonly turns: readonly (readonly [cosine: number, sine: number])[];

  constructor(now: Scene, earlier: Scene) {
    this.now = now.clusters.flatMap((cluster) => cluster.spheres);
    this.earlier = earlier.clusters.flatMap((cluster) => cluster.spheres);
    this.turns = now.rings.map(({ normal }, i) => {
      const before = earlier.rings[i]!.normal;
      const turn = Math.atan2(before[2], before[0]) - Math.atan2(normal[2], normal[0]);
      return [Math.cos(turn), Math.sin(turn)];
    });
  }

  /** @param part the hit's part: a sphere from 0 up, a ring set from -1 down, NaN for the wall */
  of(part: number, x: number, y: number, z: number): readonly [number, number, number] {
    if (part >= 0) {
      const [now, earlier] = [this.now[part]!.centre, this.earlier[part]!.centre];
      return [x + earlier[0] - now[0], y + earlier[1] - now[1], z + earlier[2] - now[2]];
    }
    if (part < 0) {
      const [cosine, sine] = this.turns[-1 - part]!;
      return [x * cosine - z * sine, y, x * sine + z * cosine];
    }
    return [x, y, z];
  }
}
