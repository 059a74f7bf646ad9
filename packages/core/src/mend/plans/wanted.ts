import type { Order } from '../../brief/index.ts';

/** Whether a pass, or one that lives in its files, is among those that were named; all are where none was. */
export function isAmong(names: readonly string[], order: Order, pass: number): boolean {
  return names.length === 0 || order.passes.some(({ owner, pass: { name } }) => owner === pass && names.includes(name));
}
