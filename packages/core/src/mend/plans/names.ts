import { framePath } from '../../naming/index.ts';
import type { Order } from '../../brief/index.ts';
import type { Assignment, Claim } from '../../tally/index.ts';
import type { MendConflict, MendPlan, MendStep } from '../steps.ts';

const SAYS: Partial<Record<Claim['relation'], string>> = {
  padding: 'the number is padded otherwise than ordered',
  name: 'separators, case or folder differ from the order',
  prefix: 'the words around the number are nearly those of the order',
  version: 'the version in the name is not the ordered one',
};

/**
 * Gives files the names that the brief orders. Two files for one frame are a conflict; another format is none of its business,
 * and a file of another version among those of the ordered one is not what its name would then say.
 */
export function planRename(order: Order, { claims }: Assignment): MendPlan {
  const steps: MendStep[] = [];
  const conflicts: MendConflict[] = [];
  claims.forEach((byFrame, pass) => {
    const { pattern, pass: ordered } = order.passes[pass]!;
    const all = [...byFrame.values()].flat();
    const isAnotherVersion = all.length > 0 && all.every(({ relation }) => relation === 'version');
    for (const [frame, list] of byFrame) {
      const named = list.filter(({ relation }) => relation !== 'format');
      if (named.every(({ relation }) => relation === 'exact')) continue;
      const to = framePath(pattern, frame);
      if (named.length > 1) {
        conflicts.push({
          files: named.map(({ file }) => file.path),
          message: `${named.length} files stand for frame ${frame} of ${ordered.name}: one can be ${to}.`,
        });
        continue;
      }
      const [{ file, relation }] = named as [Claim];
      if (relation === 'version' && !isAnotherVersion) continue;
      if (file.path !== to) steps.push({ action: 'rename', from: file.path, to, reason: `${SAYS[relation]}` });
    }
  });
  return { steps, conflicts };
}

/** What stands for a frame of a pass, ordered or not, in the pass's own format. */
const numberedFiles = ({ claims, unexpected }: Assignment): Claim[] =>
  [...claims.flatMap((byFrame) => [...byFrame.values()].flat()), ...unexpected].filter(({ relation }) => relation !== 'format');

/** Moves the numbers of all ordered passes by so many frames, ordered or not, and names them as the brief does. */
export function planRenumber(order: Order, assignment: Assignment, by: number): MendPlan {
  const steps = numberedFiles(assignment).map(({ file, pass, frame }): MendStep => {
    const to = framePath(order.passes[pass]!.pattern, frame + by);
    return { action: 'rename', from: file.path, to, reason: `frame ${frame} becomes ${frame + by}` };
  });
  return { steps: steps.filter(({ from, to }) => from !== to), conflicts: [] };
}

/** Gives the files of two passes each other's names, ordered or not: what was rendered into the wrong one of the two. */
export function planSwap(order: Order, assignment: Assignment, names: readonly [string, string]): MendPlan {
  const [first, second] = names.map((name) => order.passes.find(({ pass }) => pass.name === name)?.owner);
  if (first === undefined || second === undefined || first === second)
    return { steps: [], conflicts: [{ files: [], message: `${names[0]} and ${names[1]} are not two passes of this shot with files of their own.` }] };
  const steps = numberedFiles(assignment).flatMap(({ file, pass, frame }): MendStep[] => {
    if (pass !== first && pass !== second) return [];
    const [from, to] = pass === first ? [first, second] : [second, first];
    const reason = `frame ${frame} of ${order.passes[from]!.pass.name} is one of ${order.passes[to]!.pass.name}`;
    return [{ action: 'rename', from: file.path, to: framePath(order.passes[to]!.pattern, frame), reason }];
  });
  return { steps, conflicts: [] };
}
