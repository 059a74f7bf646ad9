import { saveFileFacts, type Database, type StoredFile } from '@mint-tally/store';

/** Files whose facts are written at a time. */
const SAVE_AT_ONCE = 200;

/** Writes down what is found of a shot's files while they are looked at, so that a stopped job goes on where it was. */
export class KeptFacts {
  private readonly database: Database;
  private readonly shotId: number;
  private found: StoredFile[] = [];

  constructor(database: Database, shotId: number) {
    [this.database, this.shotId] = [database, shotId];
  }

  async add(file: StoredFile): Promise<void> {
    this.found.push(file);
    if (this.found.length >= SAVE_AT_ONCE) await this.flush();
  }

  /** Writes what has not been written yet. */
  async flush(): Promise<void> {
    const some = this.found;
    this.found = [];
    await saveFileFacts(this.database, this.shotId, some);
  }
}
