import { isMove, type MendStep } from './steps.ts';

/** One move or copy, at a moment at which nothing bears its new name. */
export interface MendMove {
  readonly from: string;
  readonly to: string;
  readonly way: 'move' | 'copy';
  /** Place of its step in the plan. */
  readonly step: number;
}

/**
 * Puts the steps of a plan without conflicts into an order in which no name is taken when it is given: whoever bears it makes
 * room first. Where that goes round, one file waits under another name meanwhile.
 *
 * @param waiting gives a name that nothing bears, by the place of a step
 */
export function orderMoves(steps: readonly MendStep[], waiting: (step: number) => string): MendMove[] {
  const leaving = new Map<string, number>();
  steps.forEach((step, i) => isMove(step) && leaving.set(step.from, i));
  const isPlanned = new Uint8Array(steps.length);
  const moves: MendMove[] = [];
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
      moves.push({ from: isRing && i === first ? waiting(i) : step.from, to: step.to, way: isMove(step) ? 'move' : 'copy', step: i });
    }
  }
  return moves;
}
