import type { FileFacts } from './inspect.ts';

/** Beyond so many different ones, remembering them would cost more than it saves. */
const MOST_REMEMBERED = 1000;

/**
 * Lets the facts of many files hold the same objects where their headers say the same, as they do
 * along a pass: a count keeps the facts of every file in memory.
 */
export class SharedParts {
  private readonly known = new Map<string, object>();

  /** The same facts, with parts that others may hold as well. Nothing writes into any. */
  share(facts: FileFacts): FileFacts {
    const { header } = facts;
    if (!header) return facts;
    const { channels, dataWindow, displayWindow, metadata } = header;
    return {
      ...facts,
      header: {
        ...header,
        channels: this.part(channels),
        dataWindow: dataWindow && this.part(dataWindow),
        displayWindow: displayWindow && this.part(displayWindow),
        metadata: this.part(metadata),
      },
    };
  }

  private part<Part extends object>(part: Part): Part {
    const key = JSON.stringify(part);
    const known = this.known.get(key);
    if (known) return known as Part;
    if (this.known.size < MOST_REMEMBERED) this.known.set(key, part);
    return part;
  }
}
