import { describeError } from '@mint-tally/core';
import { StoreError } from './database.ts';

/**
 * Reads a value that a row holds. What does not parse is told with its place, so that one bad row is one
 * bad row and not an application that fails.
 *
 * @param what the row, for people, such as `Waiver 12`
 * @throws StoreError
 */
export function readStored<Value>(what: string, read: () => Value): Value {
  try {
    return read();
  } catch (thrown) {
    throw new StoreError(`${what} cannot be read from the database: ${describeError(thrown).slice(0, 300)}`, {
      remedy: 'It was changed from outside, or by another version. Delete it, or restore the database.',
      cause: thrown,
    });
  }
}
