import { aligned, room, type Exports } from './memory.ts';

/** Pixels that are worked on together: their planes fit where they are quickly at hand. */
const AT_ONCE = 1 << 14;

/** Planes of one length, of which a kernel makes others pixel by pixel. */
interface PlanesOf {
  readonly given: readonly Float32Array[];
  /** They are given, and come out otherwise. */
  readonly changed?: readonly Float32Array[];
  readonly filled?: readonly Float32Array[];
}

/** Lets a kernel go over planes piece by piece. @param visit gets where each plane lies, in the order in which they are named */
export function eachPixel({ given, changed = [], filled = [] }: PlanesOf, visit: (exports: Exports, places: readonly number[], count: number) => void): void {
  const into = [...given, ...changed];
  const outOf = [...changed, ...filled];
  const length = outOf[0]!.length;
  const size = aligned(Math.min(AT_ONCE, length) * 4);
  const { exports, start, bytes } = room((into.length + filled.length) * size);
  const floats = new Float32Array(bytes.buffer);
  const places = [...into, ...filled].map((_, i) => start + i * size);
  for (let from = 0; from < length; from += AT_ONCE) {
    const to = Math.min(length, from + AT_ONCE);
    into.forEach((plane, i) => floats.set(plane.subarray(from, to), places[i]! / 4));
    visit(exports, places, (to - from + 3) & ~3);
    outOf.forEach((plane, i) => {
      const at = places[given.length + i]! / 4;
      plane.set(floats.subarray(at, at + to - from), from);
    });
  }
}
