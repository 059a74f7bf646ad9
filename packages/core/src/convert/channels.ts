import { MintError } from '../errors.ts';
import { inReadingOrder, isAlphaName, type DecodedFrame, type Plane } from '../formats/index.ts';
import type { Recipe } from '../mend/index.ts';

/** Raised when a file cannot be made of others as it was asked. */
export class NotConvertedError extends MintError {
  constructor(why: string, remedy: string) {
    super('not-converted', why, { remedy });
  }
}

/** A channel of what is made. */
export interface ChosenChannel {
  /** Its name in the new file, layer included. */
  readonly name: string;
  /** Name of the part that it stands in; empty for the only one. */
  readonly part: string;
  readonly plane: Plane;
  /** Place of the file that it comes from. */
  readonly file: number;
}

/** Layer of a channel's name, with the dot at its end; empty for none. */
export const layerOf = (name: string) => name.slice(0, name.lastIndexOf('.') + 1);
/** A channel's name without its layer. */
export const componentOf = (name: string) => name.slice(name.lastIndexOf('.') + 1);

/** The channels that a recipe names, or all of the first file; alpha left away where nobody wants it. @throws NotConvertedError */
export function chooseChannels(frames: readonly DecodedFrame[], { channels, alpha }: Recipe): ChosenChannel[] {
  const [first] = frames as [DecodedFrame, ...DecodedFrame[]];
  const named =
    channels.length > 0 ? channels : inReadingOrder(first.planes.map(({ channel }) => channel)).map((name) => ({ file: 0, from: name, to: name, part: '' }));
  const chosen = named.map(({ file, from, to, part }) => {
    const plane = frames[file]?.planes.find(({ channel }) => channel === from);
    if (!plane)
      throw new NotConvertedError(`The file has no channel ${from}.`, 'Look at the file: it has other channels than the one that was looked at for the plan.');
    return { file, plane, name: to, part };
  });
  const kept = alpha === 'none' ? chosen.filter(({ name }) => !isAlphaName(name)) : chosen;
  if (kept.length === 0) throw new NotConvertedError('Nothing but alpha would be left, and that is left away.', 'Keep the alpha.');
  return kept;
}

/** The sets of channels that a format without names can hold, in its order. */
const SETS = [['R', 'G', 'B', 'A'], ['R', 'G', 'B'], ['Y', 'A'], ['Y'], ['X', 'Y', 'Z'], ['Z']] as const;

/**
 * The channels that a format without names is given: the plain picture; of a file with a single layer that layer's; of one with a
 * single channel that. What is left out is told.
 *
 * @throws NotConvertedError where nothing of the kind is there
 */
export function chooseUnnamed(chosen: readonly ChosenChannel[], format: string): { taken: ChosenChannel[]; left: ChosenChannel[] } {
  const layers = [...new Set(chosen.map(({ name }) => layerOf(name)))];
  const layer = layers.includes('') ? '' : layers.length === 1 ? layers[0]! : null;
  const own = chosen.filter(({ name }) => layerOf(name) === layer);
  for (const set of SETS) {
    const found = set.map((component) => own.find(({ name }) => componentOf(name).toUpperCase() === component));
    if (found.every((channel) => channel !== undefined)) return { taken: found, left: chosen.filter((channel) => !found.includes(channel)) };
  }
  if (own.length === 1) return { taken: own, left: chosen.filter((channel) => channel !== own[0]) };
  const names = chosen.map(({ name }) => name).join(', ');
  throw new NotConvertedError(`${format.toUpperCase()} holds grey or colours, and the file has ${names}.`, 'Split the layers, or convert to EXR.');
}

/** Whether a channel is a colour, or light, as against a depth, a vector, an alpha. */
export const isColour = (name: string) => /^(r|g|b|y|red|green|blue|luma)$/i.test(componentOf(name));
