import type { MergeWay } from '../batch/index.ts';
import { isMove, type MendStep } from './steps.ts';

/** One move, copy or making of a file, at a moment at which nothing bears its new name. */
export interface MendMove {
  readonly from: string;
  readonly to: string;
  readonly way: MergeWay | 'make';
  /** Place of its step in the plan. */
  readonly step: number;
}

/**
 * Puts the steps of a plan without conflicts into an order in which no name is taken when it is given: whoever bears it makes
 * room first. Where that goes round, one file waits under another name meanwhile. What is made of a file, or copied of one that
 * the same plan moves, waits under another name from the beginning: so it is there before anything makes room for it.
 *
 * @param waiting gives a name that nothing bears, by the place of a step
 */
export function orderMoves(steps: readonly MendStep[], waiting: (step: number) => string): MendMove[] {
  const leaving = new Map<string, number>();
  steps.forEach((step, i) => isMove(step) && leaving.set(step.from, i));
  const moves: MendMove[] = [];
  const isMadeFirst = ({ from, recipe, action }: MendStep) => action === 'write' && (recipe !== undefined || leaving.has(from));
  steps.forEach((step, i) => {
    if (isMadeFirst(step)) moves.push({ from: step.from, to: waiting(i), way: step.recipe ? 'make' : 'copy', step: i });
  });
  const isPlanned = new Uint8Array(steps.length);
  // Every name is given once, so whoever makes room for whom is a row, or a ring.
  for (let start = 0; start < steps.length; start++) {
    const row: number[] = [];
    let next: number | undefined = start;
    while (next !== undefined && isPlanned[next] === 0) {
      isPlanned[next] = 1;
      row.push(next);
      next = leaving.get(steps[next]!.to);
    }
    const first = row[0];
    const isRing = first !== undefined && next === first;
    if (isRing) moves.push({ from: steps[first]!.from, to: waiting(first), way: 'move', step: first });
    for (const i of row.reverse()) {
      const step = steps[i]!;
      const from = isMadeFirst(step) || (isRing && i === first) ? waiting(i) : step.from;
      moves.push({ from, to: step.to, way: isMove(step) || isMadeFirst(step) ? 'move' : (step.way ?? 'copy'), step: i });
    }
  }
  return moves;
}
