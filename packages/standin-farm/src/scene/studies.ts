import { material, materials, type Material } from './materials.ts';
import type { Cluster, Scene, Sphere, Vector } from './scene.ts';
import { stone, tiles } from './patterns.ts';

/**
 * Scenes of one difficulty each, on which measurements of noise are held against what is known of it: a render of the
 * same frame with very many samples.
 */
export const studyNames = ['texture', 'plain', 'mirrors', 'gloss', 'indirect', 'sky'] as const;
export type StudyName = (typeof studyNames)[number];

/** What a study is made of. */
interface Study {
  readonly floor: Material;
  readonly wall: Material | null;
  readonly balls: readonly Material[];
  /** The orb in the middle shines. */
  readonly lamp?: boolean;
  readonly indirect?: boolean;
}

const painted = (colour: Vector, pattern: Material['pattern']) => material('slate', colour, 0, pattern);
const grey = material('slate', [0.42, 0.42, 0.42]);
const chrome = material('metal', [0.9, 0.9, 0.92]);

const STUDIES: Record<StudyName, Study> = {
  texture: {
    floor: painted([0.6, 0.5, 0.4], stone(2.5)),
    wall: painted([0.5, 0.55, 0.6], tiles(1.3)),
    balls: [painted([0.8, 0.4, 0.3], stone(5)), painted([0.5, 0.7, 0.4], tiles(0.21)), painted([0.7, 0.7, 0.75], stone(8))],
  },
  plain: { floor: grey, wall: material('slate', [0.5, 0.5, 0.52]), balls: [grey, material('slate', [0.6, 0.3, 0.25]), material('slate', [0.25, 0.35, 0.6])] },
  mirrors: { floor: painted([0.6, 0.5, 0.4], tiles(0.6)), wall: grey, balls: [chrome, materials.clear, chrome], lamp: true },
  gloss: {
    floor: material('metal', [0.35, 0.36, 0.4], 0.4),
    wall: grey,
    balls: [materials.brass, materials.darkBrass, material('metal', [0.8, 0.82, 0.85], 0.15)],
    lamp: true,
  },
  indirect: {
    floor: material('slate', [0.7, 0.68, 0.66]),
    wall: painted([0.75, 0.7, 0.65], tiles(2.1)),
    balls: [material('slate', [0.8, 0.25, 0.2]), material('slate', [0.2, 0.6, 0.3]), painted([0.8, 0.8, 0.8], stone(6))],
    indirect: true,
  },
  sky: { floor: painted([0.5, 0.45, 0.4], stone(2.5)), wall: null, balls: [painted([0.7, 0.7, 0.7], tiles(0.3)), grey, painted([0.6, 0.35, 0.3], stone(5))] },
};

/** Radius, distance from the middle, and where on its way round, of each ball. */
const PLACES = [
  { radius: 0.55, from: 1.3, angle: 0.7 },
  { radius: 0.4, from: 1.7, angle: 2.7 },
  { radius: 0.7, from: 1.6, angle: 4.6 },
] as const;

/** One of them at a moment: the balls go round, and the camera a little. @param time turns of the balls */
export function makeStudy(name: StudyName, time: number): Scene {
  const { floor, wall, balls, lamp = false, indirect = false } = STUDIES[name];
  const turn = time * 2 * Math.PI;
  const orb: Sphere = { centre: [0, 0.98, 0], radius: 0.4, material: materials.lamp };
  const spheres = balls.map((own, i): Sphere => {
    const { radius, from, angle } = PLACES[i]!;
    return { centre: [Math.cos(angle + turn) * from, radius, Math.sin(angle + turn) * from], radius, material: own };
  });
  if (lamp) spheres.push(orb);
  const clusters = spheres.map((sphere): Cluster => ({ hull: { centre: sphere.centre, radius: sphere.radius + 0.01 }, spheres: [sphere] }));
  const around = 1.1 + time * Math.PI;
  return {
    clusters,
    wall: wall && { centre: [0, 0, 0], radius: 9, material: wall },
    rings: [{ centre: [0, 0, 0], normal: [0, 1, 0], bands: [[0, wall ? 8 : 3]], material: floor }],
    light: { corner: [-3, 5, -1.5], edgeA: [2.6, 0, 0], edgeB: [0, 0, 2.6], normal: [0, -1, 0], radiance: [20, 22.5, 27] },
    lamp: lamp ? orb : null,
    indirect,
    openSky: wall === null,
    camera: { position: [Math.cos(around) * 4.6, 2.1, Math.sin(around) * 4.6], target: [0, name === 'sky' ? 1.3 : 0.6, 0], spread: 0.85 },
    horizon: [0.24, 0.29, 0.36],
    zenith: [0.08, 0.11, 0.17],
  };
}
