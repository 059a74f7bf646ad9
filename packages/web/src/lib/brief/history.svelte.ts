/** How long the keyboard must rest until what was typed is a step of its own, in milliseconds. */
const REST = 500;
const KEPT = 200;

/** Undo and redo over snapshots of what is edited. */
export class EditHistory<Value> {
  private past: string[] = $state([]);
  private future: string[] = $state([]);
  private present: string;
  private lastChange = 0;

  constructor(value: Value) {
    this.present = JSON.stringify(value);
  }

  get canUndo(): boolean {
    return this.past.length > 0;
  }

  get canRedo(): boolean {
    return this.future.length > 0;
  }

  /** Notes the value as it is now; changes that follow each other quickly are one step. */
  note(value: Value, now = Date.now()): void {
    const next = JSON.stringify(value);
    if (next === this.present) return;
    if (now - this.lastChange > REST || this.past.length === 0) this.past = [...this.past.slice(-KEPT), this.present];
    this.present = next;
    this.future = [];
    this.lastChange = now;
  }

  /** The value before the last step; null when there is none. */
  undo(): Value | null {
    const before = this.past.at(-1);
    if (before === undefined) return null;
    this.past = this.past.slice(0, -1);
    this.future = [...this.future, this.present];
    return this.restore(before);
  }

  /** The value that the last undo took back. */
  redo(): Value | null {
    const after = this.future.at(-1);
    if (after === undefined) return null;
    this.future = this.future.slice(0, -1);
    this.past = [...this.past, this.present];
    return this.restore(after);
  }

  private restore(value: string): Value {
    this.present = value;
    this.lastChange = 0;
    return JSON.parse(value) as Value;
  }
}
