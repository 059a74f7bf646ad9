import { encodeExr, encodePng, floatToHalf, type PixelWindow } from '../src/index.ts';
import { tools } from './tools.ts';
import { count, short, type VirtualFolder } from './virtual-folder.ts';

/** What one frame of the moving shot looks like; every entry has a sound default. */
export interface Look {
  /** Where the sphere stands: 0 is the left, 1 the right. */
  at: number;
  /** Another camera sees another gradient. */
  camera: number;
  /** Seed of the noise, and how strong it is. */
  seed: number;
  noise: number;
  /** Everything is multiplied by this. */
  light: number;
  alpha: 'premultiplied' | 'straight' | 'none' | 'opaque';
  metadata: Record<string, string | { int: number } | { float: number }>;
  dataWindow: PixelWindow | null;
  compression: 'none' | 'zip';
  /** Changes the values of a pixel after all else. */
  retouch: ((x: number, y: number, values: number[]) => number[]) | null;
}

export const WIDTH = 64;
export const HEIGHT = 40;

const usual = { camera: 0, noise: 0.01, light: 1, alpha: 'premultiplied', metadata: {}, dataWindow: null, compression: 'zip', retouch: null } as const;

/** A sphere with a soft edge that moves over a gradient, as half RGBA. */
export function movingFrame(look: Partial<Look> & { at: number; seed: number }): Uint8Array {
  const { at, camera, seed, noise, light, alpha, metadata, dataWindow, compression, retouch } = { ...usual, ...look };
  const random = randomFrom(seed);
  const [left, top, right, bottom] = dataWindow ?? [0, 0, WIDTH - 1, HEIGHT - 1];
  const planes = [0, 1, 2, 3].map(() => new Uint16Array((right - left + 1) * (bottom - top + 1)));
  let i = 0;
  for (let y = top; y <= bottom; y++) {
    for (let x = left; x <= right; x++, i++) {
      const distance = Math.hypot(x - at * WIDTH, y - HEIGHT / 2);
      const covered = Math.min(1, Math.max(0, (14 - distance) / 6));
      const background = camera === 0 ? 0.1 + (0.3 * x) / WIDTH : 0.6 - (0.5 * y) / HEIGHT;
      const colour = light * (0.5 + 0.4 * covered + background + noise * (random() - 0.5));
      const a = alpha === 'opaque' ? 1 : covered;
      const factor = alpha === 'premultiplied' ? a : 1;
      const values = [colour, colour * 0.8, colour * 0.6].map((value) => value * factor);
      const final = retouch ? retouch(x, y, [...values, a]) : [...values, a];
      final.forEach((value, c) => (planes[c][i] = floatToHalf(value)));
    }
  }
  const names = alpha === 'none' ? ['R', 'G', 'B'] : ['R', 'G', 'B', 'A'];
  return encodeExr(
    {
      dataWindow: [left, top, right, bottom],
      displayWindow: [0, 0, WIDTH - 1, HEIGHT - 1],
      pixelAspect: 1,
      compression,
      channels: names.map((name, c) => ({ name, type: 'half', data: planes[c] })),
      metadata,
    },
    tools,
  );
}

/** The same sphere as 8 bit grey, as a matte would show it. */
export function matteFrame(at: number | null): Uint8Array {
  const data = Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    const distance = at === null ? 99 : Math.hypot((i % WIDTH) - at * WIDTH, Math.floor(i / WIDTH) - HEIGHT / 2);
    return 255 * Math.min(1, Math.max(0, 14 - distance));
  });
  return encodePng({ width: WIDTH, height: HEIGHT, samplesPerPixel: 1, data }, tools);
}

function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

export const FIRST = 1001;
export const LAST = 1024;

/** The path of a beauty frame. */
export const beautyPath = (frame: number) => `beauty/orr_010_beauty.${frame}.exr`;

/** A shot that moves through its range, frame by frame as `look` says. */
export function movingShot(look: (frame: number) => Partial<Look> = () => ({})): VirtualFolder {
  const folder: VirtualFolder = {};
  for (let frame = FIRST; frame <= LAST; frame++) {
    folder[beautyPath(frame)] = movingFrame({ at: (frame - FIRST + 4) / 32, seed: frame, ...look(frame) });
  }
  return folder;
}

export const movingBrief = {
  shot: 'orr_010',
  range: `${FIRST}-${LAST}`,
  fps: '24',
  passes: [
    { name: 'beauty', role: 'beauty', pattern: 'beauty/orr_010_beauty.####.exr', channels: ['R', 'G', 'B', 'A'], depth: 'half', alpha: 'premultiplied' },
  ],
};

export type MovingBrief = typeof movingBrief & Record<string, unknown>;

/** What is found of such a shot: code, pass and frames of each finding. */
export function findings(look: (frame: number) => Partial<Look>, brief: Partial<MovingBrief> = {}): string[] {
  return short(count(movingShot(look), { ...movingBrief, ...brief }));
}

/** A turn that is one frame too long. */
export const turned = (frame: number) => 0.5 + 0.3 * Math.sin((2 * Math.PI * (frame - FIRST)) / (LAST - FIRST));

export const opaque: Partial<Look> = { alpha: 'opaque' };
export const noAlphaOrdered = { passes: [{ name: 'beauty', role: 'beauty', pattern: movingBrief.passes[0].pattern }] } as unknown as Partial<MovingBrief>;
