import { move, transferableSymbol, valueSymbol } from 'piscina';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { drawFrame, lookAtFirst, type DrawnFrame, type FirstLook, type FrameOrder, type ShownFile } from './draw-frame.ts';

/** Draws a picture of a movie in a thread of its own. */
export async function draw(order: FrameOrder): Promise<DrawnFrame | ToldError> {
  try {
    const drawn = await drawFrame(order);
    // Handed over and not copied.
    return move({ [transferableSymbol]: drawn.data.buffer, [valueSymbol]: drawn }) as unknown as DrawnFrame;
  } catch (thrown) {
    return tellError(thrown);
  }
}

/** What all pictures of a movie have in common. */
export async function look(shown: ShownFile): Promise<FirstLook | ToldError> {
  try {
    return lookAtFirst(shown);
  } catch (thrown) {
    return tellError(thrown);
  }
}
