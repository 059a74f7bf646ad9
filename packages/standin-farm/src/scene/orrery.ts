import { materials } from './materials.ts';
import type { Cluster, Rings, Scene, Sphere, Vector } from './scene.ts';

/** How a shot looks at the orrery. */
export interface View {
  /** Camera's distance, height and turn (radians) around the table. */
  readonly distance: number;
  readonly height: number;
  readonly turn: number;
  readonly targetHeight: number;
  readonly spread: number;
  /** Whether the lamp room's wall stands behind; without it the background is empty. */
  readonly wall: boolean;
  /** Turns of the orrery, and of the camera, over the whole shot. */
  readonly orreryTurns: number;
  readonly cameraTurns: number;
}

const PLANETS = [
  { orbit: 1.05, radius: 0.22, height: 0.86, speed: 3, phase: 0.4, material: materials.rose },
  { orbit: 1.6, radius: 0.36, height: 0.86, speed: 2, phase: 2.3, material: materials.amber },
  { orbit: 2.25, radius: 0.3, height: 0.86, speed: 1, phase: 4.4, material: materials.sea },
  { orbit: 2.25, radius: 0.17, height: 0.86, speed: 1, phase: 1.2, material: materials.moss },
  { orbit: 2.8, radius: 0.42, height: 0.86, speed: 1, phase: 5.9, material: materials.clear },
] as const;

/**
 * The glass orrery at a moment of a shot.
 *
 * @param time 0 at the shot's first frame, 1 one frame after its last, so that a full turn loops
 */
export function makeScene(view: View, time: number): Scene {
  const turn = time * view.orreryTurns * 2 * Math.PI;
  const lamp: Sphere = { centre: [0, 0.98, 0], radius: 0.4, material: materials.lamp };
  const clusters: Cluster[] = [
    {
      hull: { centre: [0, 0.62, 0], radius: 0.95 },
      spheres: [
        lamp,
        { centre: [0, 0.34, 0], radius: 0.26, material: materials.darkBrass },
        { centre: [0, 0.08, 0], radius: 0.34, material: materials.darkBrass },
      ],
    },
  ];
  for (const planet of PLANETS) {
    const angle = planet.phase + turn * planet.speed;
    const [x, z] = [Math.cos(angle) * planet.orbit, Math.sin(angle) * planet.orbit];
    const top = planet.height + planet.radius;
    const bottom = 0.36;
    clusters.push({
      hull: { centre: [x, (top + bottom) / 2, z], radius: (top - bottom) / 2 + 0.01 },
      spheres: [
        { centre: [x, planet.height, z], radius: planet.radius, material: planet.material },
        // The brass foot that carries it, and its bearing on the orbit's ring.
        { centre: [x, planet.height - planet.radius - 0.06, z], radius: 0.08, material: materials.brass },
        { centre: [x, 0.42, z], radius: 0.06, material: materials.brass },
      ],
    });
  }
  const rings: Rings[] = [
    { centre: [0, 0, 0], normal: [0, 1, 0], bands: [[0, 4.6]], material: materials.slate },
    {
      centre: [0, 0.42, 0],
      normal: [0, 1, 0],
      material: materials.brass,
      bands: [1.05, 1.6, 2.25, 2.8].map((orbit) => [orbit - 0.025, orbit + 0.025] as const),
    },
    { centre: [0, 0.98, 0], normal: tilt(turn + 0.6), bands: [[0.56, 0.62]], material: materials.brass },
  ];
  const around = view.turn + time * view.cameraTurns * 2 * Math.PI;
  return {
    clusters,
    wall: view.wall ? { centre: [0, 0, 0], radius: 14, material: materials.wall } : null,
    rings,
    light: { corner: [-4, 5.5, -1.5], edgeA: [2.6, 0, 0], edgeB: [0, 0, 2.6], normal: [0, -1, 0], radiance: [20, 22.5, 27] },
    lamp,
    indirect: false,
    openSky: false,
    camera: {
      position: [Math.cos(around) * view.distance, view.height, Math.sin(around) * view.distance],
      target: [0, view.targetHeight, 0],
      spread: view.spread,
    },
    horizon: [0.24, 0.29, 0.36],
    zenith: [0.08, 0.11, 0.17],
  };
}

function tilt(angle: number): Vector {
  const lean = 0.5;
  return [Math.sin(lean) * Math.cos(angle), Math.cos(lean), Math.sin(lean) * Math.sin(angle)];
}
