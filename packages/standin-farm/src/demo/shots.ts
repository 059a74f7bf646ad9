import type { View } from '../scene/orrery.ts';
import type { PassFile } from '../nodes/frame-files.ts';
import type { PassName } from '../render/frame.ts';

/** A shot of the demo film: how it is rendered, and what was ordered. */
export interface DemoShot {
  readonly name: string;
  readonly note: string;
  readonly first: number;
  readonly last: number;
  /** The last frame that the farm has rendered so far. */
  readonly renderedTo: number;
  readonly passes: readonly PassName[];
  readonly format: 'exr' | 'png';
  readonly version: string;
  readonly view: View;
  readonly seed: number;
  /** Which machine renders from which frame on. */
  readonly machines: readonly (readonly [from: number, host: string])[];
  /** What the brief asks the noise to be at most; not said without it. */
  readonly noise?: number;
}

/** Size and samples of what is rendered. */
export interface RenderQuality {
  readonly width: number;
  readonly height: number;
  readonly samples: number;
}

export const DEMO_QUALITY: RenderQuality = { width: 384, height: 216, samples: 4 };

const VIEW: View = { distance: 4.9, height: 2.3, turn: 0.6, targetHeight: 0.62, spread: 0.86, wall: true, orreryTurns: 1, cameraTurns: 0 };
const ALL_PASSES: readonly PassName[] = ['beauty', 'depth', 'normal'];
const LIGHTS: readonly PassName[] = ['diffuse', 'specular', 'transmission', 'emission'];

/** The shots of *Saltglass* that the demo renders. */
export const demoShots: readonly DemoShot[] = [
  {
    name: 'orr_010',
    note: 'the lamp room, wide',
    first: 1001,
    last: 1024,
    renderedTo: 1024,
    passes: ALL_PASSES,
    format: 'exr',
    version: '',
    view: { ...VIEW, orreryTurns: 0.25, cameraTurns: 0.04 },
    seed: 10,
    machines: [
      [1001, 'bowline'],
      [1013, 'reef'],
    ],
  },
  {
    name: 'orr_020',
    note: 'amber sphere, close',
    first: 1001,
    last: 1024,
    renderedTo: 1024,
    passes: ALL_PASSES,
    format: 'png',
    version: '_v002',
    view: { ...VIEW, distance: 3.6, height: 1.5, turn: 2.15, targetHeight: 0.75, spread: 0.8, wall: false, orreryTurns: 0.12 },
    seed: 20,
    machines: [
      [1001, 'sheetbend'],
      [1013, 'clove'],
    ],
  },
  {
    name: 'orr_030',
    note: 'full turn, loop',
    first: 1001,
    last: 1036,
    renderedTo: 1036,
    passes: ALL_PASSES,
    format: 'exr',
    version: '',
    view: { ...VIEW, height: 3.1, distance: 4.6 },
    seed: 30,
    machines: [
      [1001, 'bowline'],
      [1017, 'reef'],
      [1027, 'sheetbend'],
    ],
  },
  {
    name: 'orr_040',
    note: 'brass arm passes',
    first: 1001,
    last: 1032,
    renderedTo: 1018,
    passes: ['beauty', 'depth'],
    format: 'exr',
    version: '',
    view: { ...VIEW, distance: 4.2, height: 1.15, turn: 4.1, targetHeight: 0.7, orreryTurns: 0.3 },
    seed: 40,
    machines: [[1001, 'clove']],
  },
  {
    name: 'orr_050',
    note: 'the lamp burns down, all passes',
    first: 1001,
    last: 1016,
    renderedTo: 1016,
    passes: ['beauty', ...LIGHTS, 'albedo', 'normal', 'depth', 'motion'],
    format: 'exr',
    version: '',
    view: { ...VIEW, distance: 4.4, height: 1.9, turn: 1.2, orreryTurns: 0.05, cameraTurns: 0.02 },
    seed: 50,
    machines: [
      [1001, 'bowline'],
      [1012, 'reef'],
    ],
    noise: 0.16,
  },
];

/** A pass's file for one frame, as ordered. */
export function orderedFile(shot: DemoShot, pass: PassName, frame: number): PassFile {
  return {
    pass,
    path: `${shot.name}/${pass}/${shot.name}${shot.version}_${pass}.${frame}.${shot.format}`,
    format: shot.format,
    compression: pass === 'depth' ? 'zips' : 'zip',
    type: pass === 'depth' || pass === 'motion' ? 'float' : 'half',
  };
}

/** What was ordered for a shot, in the form of a brief file. */
export function briefOf(shot: DemoShot, quality: RenderQuality = DEMO_QUALITY): unknown {
  return {
    shot: shot.name,
    range: `${shot.first}-${shot.last}`,
    fps: '24',
    resolution: [quality.width, quality.height],
    pixelAspect: 1,
    // What a machine has not rendered yet was ordered all the same.
    passes: [...new Set([...ALL_PASSES, ...shot.passes])].map((pass) => ({
      name: pass,
      role: LIGHTS.includes(pass) ? 'light' : pass,
      pattern: `${pass}/${shot.name}${shot.version}_${pass}.####.${shot.format}`,
      ...orderedKind(pass, shot.format === 'exr'),
    })),
    sampling: { samples: quality.samples, ...(shot.noise !== undefined && { noise: shot.noise }) },
  };
}

/** What was ordered of a pass's files. */
function orderedKind(pass: PassName, exr: boolean): object {
  const compression = ['zip', 'zips'];
  switch (pass) {
    case 'beauty':
      return { channels: ['R', 'G', 'B', 'A'], ...(exr ? { depth: 'half', compression, alpha: 'premultiplied' } : { depth: '8', alpha: 'straight' }) };
    case 'depth':
      return exr ? { channels: ['Z'], depth: 'float', compression } : { channels: ['Y'], depth: '16' };
    case 'normal':
      return exr ? { channels: ['X', 'Y', 'Z'], depth: 'half', compression } : { channels: ['R', 'G', 'B'], depth: '16' };
    case 'motion':
      return { channels: ['X', 'Y'], depth: 'float', compression };
    default:
      return { channels: ['R', 'G', 'B'], depth: 'half', compression };
  }
}
