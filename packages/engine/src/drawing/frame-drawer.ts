import path from 'node:path';
import { MovieError, type MoviePicture, type Order } from '@mint-tally/core';
import { Piscina } from 'piscina';
import { servicesFolder } from '../config/project.ts';
import { layerOfPass } from '../stills/layers.ts';
import { answerOf, type ToldError } from '../threads/told-error.ts';
import type { DrawnFrame, FirstLook, FrameOrder, ShownFile } from './draw-frame.ts';

/** A sequence that is shown: a folder, what is ordered there, and one of its passes. */
export interface ShownSequence {
  /** Real path. */
  readonly folder: string;
  readonly order: Order;
  readonly passIndex: number;
}

/** Draws frames in threads as the viewer shows them. To be closed. */
export class FrameDrawer {
  private readonly pool: Piscina<FrameOrder | ShownFile, unknown>;

  constructor(threads: number) {
    this.pool = new Piscina({ filename: path.join(servicesFolder(), 'frame-worker.js'), minThreads: 0, maxThreads: threads });
  }

  /** A drawn picture, or the slate that stands for it. @throws MintError */
  async draw(order: FrameOrder): Promise<DrawnFrame> {
    return answerOf((await this.pool.run(order, { name: 'draw' })) as DrawnFrame | ToldError);
  }

  /** What holds for all pictures, found in the first that can be read. @throws the error of the first where none can; MovieError where none is there */
  async look(shown: ShownSequence, pictures: readonly Pick<MoviePicture, 'file'>[]): Promise<FirstLook> {
    let problem: unknown = null;
    for (const { file } of pictures) {
      if (file === null) continue;
      try {
        return answerOf((await this.pool.run(fileOf(shown, file)!, { name: 'look' })) as FirstLook | ToldError);
      } catch (thrown) {
        problem ??= thrown;
      }
    }
    throw problem ?? new MovieError('movie', 'None of the frames is there.', 'Look at the shot’s folder, and count again.', shown.folder);
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}

/** A file of a sequence, with what of it is shown; null where there is none. */
export function fileOf({ folder, order, passIndex }: ShownSequence, file: string | null): ShownFile | null {
  const { pass } = order.passes[passIndex]!;
  return file === null ? null : { folder, file, layer: layerOfPass(order, passIndex).channels, role: pass.role, alpha: pass.alpha };
}

/** What a slate says of a frame. */
export const slateOf = (pass: string, { frame, file }: Pick<MoviePicture, 'frame' | 'file'>) => `${pass} ${frame}\n${file === null ? 'missing' : ''}`.trim();
