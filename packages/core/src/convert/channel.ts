import type { DecodedFrame, ExrAttribute, Plane } from '../formats/index.ts';
import type { ChosenChannel } from './channels.ts';
import { kindOf, numbersOf, type NumberKind, type Numbers } from './numbers.ts';

/** A file that something is made of. */
export interface ConvertSource {
  readonly frame: DecodedFrame;
  /** How its alpha is meant; null where nobody says, and it is taken for what the new file says. */
  readonly alphaKind: 'straight' | 'premultiplied' | null;
  /** All that an EXR's header says, but for how its pixels are kept; null for other formats. */
  readonly attributes: ReadonlyMap<string, ExrAttribute> | null;
  /** What of its shape the new file will not have, in words. */
  readonly shape: readonly string[];
}

/** A channel on its way: its numbers, and what kind they are now. */
export class Channel implements ChosenChannel {
  readonly name: string;
  readonly part: string;
  readonly plane: Plane;
  readonly file: number;
  kind: NumberKind;
  /** Whether its numbers are others than the file's. */
  isTouched = false;
  private read: Numbers | null = null;

  constructor({ name, part, plane, file }: ChosenChannel) {
    this.name = name;
    this.part = part;
    this.plane = plane;
    this.file = file;
    this.kind = kindOf(plane);
  }

  /** Worked out when they are first asked for. */
  get values(): Numbers {
    return (this.read ??= numbersOf(this.plane));
  }

  /** The numbers, to be changed in place. */
  touch(): Numbers {
    // A plane of floats is given as it is, and the file's own stay what they are.
    if (!this.isTouched && this.values.buffer === this.plane.data.buffer) this.read = this.values.slice();
    this.isTouched = true;
    return this.values;
  }
}
