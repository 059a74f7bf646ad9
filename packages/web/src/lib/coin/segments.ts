import type { GateState } from '@mint-tally/core';

/** The shapes that one segment of the coin can take, as paths in a square of 44. */
interface Segment {
  readonly full: string;
  readonly firstHalf: string;
  readonly secondHalf: string;
  readonly outer: string;
  readonly inner: string;
  readonly outline: string;
  readonly thin: string;
}

/** Between two segments, in radians. */
const GAP = 0.11;

const point = (radius: number, angle: number) => `${(22 + radius * Math.sin(angle)).toFixed(2)} ${(22 - radius * Math.cos(angle)).toFixed(2)}`;
const ring = (from: number, to: number, outer: number, inner: number) =>
  `M${point(outer, from)}A${outer} ${outer} 0 0 1 ${point(outer, to)}L${point(inner, to)}A${inner} ${inner} 0 0 0 ${point(inner, from)}Z`;

const known = new Map<number, readonly Segment[]>();

/** The segments of a coin of so many gates, from the top; worked out once. */
function segments(count: number): readonly Segment[] {
  let shapes = known.get(count);
  if (!shapes) known.set(count, (shapes = Array.from({ length: count }, (_, index) => segment(index, (2 * Math.PI) / count))));
  return shapes;
}

function segment(index: number, step: number): Segment {
  const [from, to] = [index * step + GAP / 2, (index + 1) * step - GAP / 2];
  const middle = (from + to) / 2;
  return {
    full: ring(from, to, 21, 14.5),
    firstHalf: ring(from, middle - 0.05, 21, 14.5),
    secondHalf: ring(middle + 0.05, to, 21, 14.5),
    outer: ring(from, to, 21, 18.8),
    inner: ring(from, to, 16.7, 14.5),
    outline: ring(from + 0.03, to - 0.03, 20.2, 15.3),
    thin: ring(from, to, 18.4, 17.1),
  };
}

/** Stands for a drawn outline, where other paints are colours that fill. */
export const OUTLINE = 'outline';

/** What is drawn of a segment in each state: paint and path. */
const DRAWN: Record<GateState, (shape: Segment) => readonly (readonly [paint: string, path: string])[]> = {
  closed: ({ full }) => [['mint', full]],
  warned: ({ firstHalf, secondHalf }) => [
    ['mint', firstHalf],
    ['odd', secondHalf],
  ],
  waived: ({ outer, inner }) => [
    ['mint', outer],
    ['waived', inner],
  ],
  open: ({ outline }) => [[OUTLINE, outline]],
  unmeasured: ({ thin }) => [['control', thin]],
};

const drawn = new Map<string, readonly { paint: string; d: string }[]>();

/** A coin as one path a paint; there are few different ones, so each is put together once. */
export function strokesOf(states: readonly GateState[]): readonly { paint: string; d: string }[] {
  const key = states.join();
  const before = drawn.get(key);
  if (before) return before;
  const paths = new Map<string, string>();
  segments(states.length).forEach((shape, i) => {
    for (const [paint, path] of DRAWN[states[i]!](shape)) paths.set(paint, (paths.get(paint) ?? '') + path);
  });
  const strokes = [...paths].map(([paint, d]) => ({ paint, d }));
  drawn.set(key, strokes);
  return strokes;
}
