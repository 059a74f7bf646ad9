import type { Plane } from '../formats/index.ts';

/**
 * The planes named by letters, such as `RGB`, in their order; null when one of them is not there. A plain
 * name comes before one that ends in the letter after a dot, as those of layers do.
 *
 * @param inLayers whether the names of layers count at all
 */
export function planesNamed(planes: readonly Plane[], letters: string, inLayers: boolean): Plane[] | null {
  const found = [...letters].map(
    (letter) =>
      planes.find(({ channel }) => channel.toUpperCase() === letter) ??
      (inLayers ? planes.find(({ channel }) => channel.toUpperCase().endsWith(`.${letter}`)) : undefined),
  );
  return found.every((plane) => plane !== undefined) ? found : null;
}
