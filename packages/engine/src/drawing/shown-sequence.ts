import { assignFiles, MovieError, type Order } from '@mint-tally/core';
import { listFolder } from '../files/list-folder.ts';

/** Which file stands for each frame of a pass; of several the one with the ordered name. @throws FileAccessError */
export async function filesOfPass(folder: string, order: Order, passIndex: number): Promise<(frame: number) => string | null> {
  const { files } = await listFolder(folder, { stats: true });
  const { owner } = order.passes[passIndex]!;
  const claims = assignFiles(order, files, Date.now()).claims[owner]!;
  return (frame) => {
    const all = claims.get(frame) ?? [];
    return (all.find(({ relation }) => relation === 'exact') ?? all[0])?.file.path ?? null;
  };
}

/** The place of a pass. @throws MovieError */
export function passNamed(order: Order, name: string): number {
  const index = order.passes.findIndex(({ pass }) => pass.name === name);
  if (index < 0) throw new MovieError('movie', `The brief orders no pass ${name}.`, `It orders ${order.passes.map(({ pass }) => pass.name).join(', ')}.`);
  return index;
}
