/** Counted in units of so many bytes, so that the sum fits into a shared 32 bit number. */
const UNIT = 1 << 16;
const [USED, TOTAL] = [0, 1];

/**
 * Memory that all threads together may use for what they look into. A file takes its share before it is
 * read and gives it back afterwards; one for which there is no room waits.
 */
export class MemoryBudget {
  private readonly units: Int32Array;

  /** @param shared made by `share`, the same for all threads */
  constructor(shared: SharedArrayBuffer) {
    this.units = new Int32Array(shared);
  }

  /** A budget of so many bytes, to be given to every thread. */
  static share(bytes: number): SharedArrayBuffer {
    const shared = new SharedArrayBuffer(8);
    new Int32Array(shared)[TOTAL] = Math.min(2 ** 31 - 1, Math.floor(bytes / UNIT));
    return shared;
  }

  get total(): number {
    return this.units[TOTAL] * UNIT;
  }

  /** Whether so much could ever be had. */
  holds(bytes: number): boolean {
    return Math.ceil(bytes / UNIT) <= this.units[TOTAL];
  }

  /**
   * Waits until there is room, and takes it. Ask `holds` first.
   *
   * @returns gives it back
   */
  async take(bytes: number): Promise<() => void> {
    const wanted = Math.ceil(bytes / UNIT);
    for (;;) {
      const used = Atomics.load(this.units, USED);
      if (used + wanted > this.units[TOTAL]) {
        // Without blocking the thread: what holds the room may be waiting for a turn in it.
        const { async: waits, value } = Atomics.waitAsync(this.units, USED, used);
        if (waits) await value;
      } else if (Atomics.compareExchange(this.units, USED, used, used + wanted) === used) break;
    }
    return () => {
      Atomics.sub(this.units, USED, wanted);
      Atomics.notify(this.units, USED);
    };
  }
}
