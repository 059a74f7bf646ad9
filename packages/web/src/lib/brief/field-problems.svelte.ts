import type { BriefDraft } from './draft';
import { readDraft } from './draft';

/**
 * What is wrong with each entry, as it is shown: the form's own words while something is typed,
 * the server's after it refused; nothing of an entry that nobody has touched yet.
 */
export class FieldProblems {
  private readonly draft: () => BriefDraft;
  private readonly told: () => Record<string, string>;
  private touched: Record<string, true> = $state({});
  /** The server's answer that the draft was changed after. */
  private answered: Record<string, string> | null = $state(null);

  constructor(draft: () => BriefDraft, told: () => Record<string, string>) {
    this.draft = draft;
    this.told = told;
  }

  readonly reading = $derived.by(() => readDraft(this.draft()));
  private readonly refused: boolean = $derived.by(() => Object.keys(this.told()).length > 0);
  private readonly all: Record<string, string> = $derived.by(() => (this.refused && this.answered !== this.told() ? this.told() : this.reading.problems));

  /** Something was typed: from now on the form's own words count. */
  changed(): void {
    this.answered = this.told();
  }

  shown(field: string): string {
    return this.touched[field] || this.refused ? (this.all[field] ?? '') : '';
  }

  /** What an entry's field needs: its name, what is wrong with it, and to be noticed when it is left. */
  entry(field: string) {
    return { field, problem: this.shown(field), onblur: () => (this.touched[field] = true) };
  }
}
