/** The columns that are played, one after the other: a stretch, or some of them with what lies between left out. */
export class Course {
  /** Ascending. */
  readonly columns: Int32Array;

  private constructor(columns: Int32Array) {
    this.columns = columns;
  }

  /** All columns from one to another; none where the last lies before the first. */
  static stretch(from: number, to: number): Course {
    return new Course(Int32Array.from({ length: Math.max(0, to - from + 1) }, (_, place) => from + place));
  }

  static of(columns: Iterable<number>): Course {
    return new Course(Int32Array.from(new Set(columns)).sort());
  }

  get count(): number {
    return this.columns.length;
  }

  get first(): number {
    return this.columns[0] ?? 0;
  }

  get last(): number {
    return this.columns.at(-1) ?? 0;
  }

  /** Whether nothing between the first and the last is left out. */
  get isStretch(): boolean {
    return this.count === 0 || this.last - this.first + 1 === this.count;
  }

  at(place: number): number {
    return this.columns[place]!;
  }

  /** The place of a column, or -1 where it is left out. */
  placeOf(column: number): number {
    if (this.isStretch) return column >= this.first && column <= this.last ? column - this.first : -1;
    let [low, high] = [0, this.count];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.columns[middle]! < column) low = middle + 1;
      else high = middle;
    }
    return this.columns[low] === column ? low : -1;
  }

  /** Every so many of its columns. */
  every(step: number): Course {
    return step <= 1 ? this : Course.of(this.columns.filter((_, place) => place % step === 0));
  }

  /** With the columns that lie so far from each, as far as there are any. */
  withNeighbours(offset: number, columns: number): Course {
    if (offset === 0) return this;
    return Course.of([...this.columns, ...this.columns.map((column) => column + offset).filter((column) => column >= 0 && column < columns)]);
  }
}
