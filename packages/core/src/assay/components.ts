import { addHalves, type DecodedFrame, type Plane } from '../formats/index.ts';
import { mixHalves } from '../kernels/index.ts';

/** How the components of vectors and values are usually called, the likeliest first. */
const USUAL_NAMES = ['RGB', 'XYZ', 'UV', 'XY', 'RG', 'Z', 'Y', 'R'] as const;

/** A pass's components as numbers, and where they lie in the picture. */
export interface Components {
  readonly width: number;
  readonly height: number;
  /** Of the data window's corner in the display window, in pixels. */
  readonly left: number;
  readonly top: number;
  readonly count: number;
  /** Turned into numbers when they are first asked for. */
  readonly values: readonly Float32Array[];
}

/**
 * The components of a data pass: its channels in the order that the brief gives, else by the names that such passes
 * usually have, else as they stand in the file. Integers come as 0..1.
 *
 * @returns null where a named channel is not there, or planes are of different sizes
 */
export function componentsOf(frame: DecodedFrame, channels: readonly string[] | null): Components | null {
  const key = channels === null ? '' : JSON.stringify(channels);
  const known = components.get(frame) ?? new Map<string, Components | null>();
  components.set(frame, known);
  let found = known.get(key);
  if (found === undefined) known.set(key, (found = readComponents(frame, channels)));
  return found;
}

/** What was read of frames that are still held: a pass is asked for by more than one sum. */
const components = new WeakMap<DecodedFrame, Map<string, Components | null>>();

function readComponents(frame: DecodedFrame, channels: readonly string[] | null): Components | null {
  const planes = channels ? channels.map((name) => frame.planes.find(({ channel }) => channel === name)) : usualPlanes(frame.planes);
  const first = planes[0];
  if (!first || !planes.every((plane) => plane !== undefined && plane.width === first.width && plane.height === first.height)) return null;
  let values: Float32Array[] | null = null;
  return {
    ...placeOf(frame),
    width: first.width,
    height: first.height,
    count: planes.length,
    get values() {
      return (values ??= planes.map((plane) => numbersOfPlane(plane!)));
    },
  };
}

function usualPlanes(planes: readonly Plane[]): Plane[] {
  const named = (letter: string) => planes.find(({ channel }) => (channel.split('.').at(-1) ?? '').toUpperCase() === letter);
  for (const names of USUAL_NAMES) {
    const found = [...names].map(named);
    if (names.length <= planes.length && found.every((plane) => plane !== undefined)) return found;
  }
  return [...planes];
}

/** Where the samples of a frame begin in its display window. */
export function placeOf({ header }: DecodedFrame): { left: number; top: number } {
  const { dataWindow, displayWindow } = header;
  return dataWindow && displayWindow ? { left: dataWindow[0] - displayWindow[0], top: dataWindow[1] - displayWindow[1] } : { left: 0, top: 0 };
}

/** A plane's values: scene-linear of floats, whole numbers of `uint`, 0..1 of other integers. */
export function numbersOfPlane(plane: Plane): Float32Array {
  const { type, data, offset, stride, width, height } = plane;
  // They are as they are.
  if (type === 'float' && data instanceof Float32Array && stride === 1) return data.subarray(offset, offset + width * height);
  return mixPlanes([plane], [1]);
}

/** Sums of the values of planes of one size, each times its weight. */
export function mixPlanes(planes: readonly Plane[], weights: readonly number[]): Float32Array {
  const count = planes[0]!.width * planes[0]!.height;
  const out = new Float32Array(count);
  const halves = planes.map(({ type, data, offset, stride }) =>
    type === 'half' && data instanceof Uint16Array && stride === 1 ? data.subarray(offset, offset + count) : null,
  );
  if (halves.every((plane) => plane !== null)) mixHalves(halves, weights, out);
  else planes.forEach((plane, i) => addPlane(out, plane, weights[i]!));
  return out;
}

/** Adds a plane's values, each times a weight, to numbers that are there. */
function addPlane(out: Float32Array, { type, data, offset, stride }: Plane, weight: number): void {
  if (type === 'half' && data instanceof Uint16Array) return addHalves(data, offset, stride, weight, out);
  const scale = weight / (type === 'u8' ? 255 : type === 'u16' ? 65535 : 1);
  for (let i = 0, at = offset; i < out.length; i++, at += stride) out[i] = out[i]! + scale * data[at]!;
}

/** Values of one window as another one has them: what it does not cover is `outside`. */
export function movedTo(from: Components, values: Float32Array, to: { width: number; height: number; left: number; top: number }, outside = 0): Float32Array {
  if (from.width === to.width && from.height === to.height && from.left === to.left && from.top === to.top) return values;
  const out = new Float32Array(to.width * to.height).fill(outside);
  for (let y = 0; y < to.height; y++) {
    const row = y + to.top - from.top;
    if (row < 0 || row >= from.height) continue;
    for (let x = 0; x < to.width; x++) {
      const column = x + to.left - from.left;
      if (column >= 0 && column < from.width) out[y * to.width + x] = values[row * from.width + column]!;
    }
  }
  return out;
}
