import { COLUMN, FILTERED, SPREAD_COLUMN, TILE_LINE, slotsOf, spreadSlotsOf, type FittedPart } from './strip-layout.ts';
import type { Strip } from './strip.ts';

/** The columns of a strip's tiles: those of one tile side by side, and behind them those of the next. */
export class TileColumns {
  /** Bytes from one tile's columns to those of the next, and of those that are spread. */
  readonly next: number;
  readonly nextSpread: number;
  private readonly strip: Strip<FittedPart>;
  private readonly kernel: 'highPassColumn' | 'laplacianColumn';
  private readonly skipped: number;

  /**
   * @param count of the columns of a fit, beside what they explain
   * @param skipped of the lines above and below the tiles that filters reach, so many at either end are not wanted
   */
  constructor(strip: Strip<FittedPart>, count: number, filter: 'highPass' | 'laplacian', skipped: number) {
    [this.strip, this.skipped] = [strip, skipped];
    this.kernel = `${filter}Column`;
    this.next = slotsOf(count) * COLUMN;
    this.nextSpread = spreadSlotsOf(count) * SPREAD_COLUMN;
  }

  /** Fills a column. @param raw the first of the lines that are not filtered yet @param mask of the pixels that are wanted */
  filter(raw: number, column: number, mask: number): void {
    this.filterInto(raw, column, mask, 0);
  }

  /** Adds to what a column holds. @param less the column for what that was without it */
  filterMore(raw: number, column: number, mask: number, less: number): void {
    this.filterInto(raw, column, mask, this.placeOf(less));
  }

  private filterInto(raw: number, column: number, mask: number, less: number): void {
    const { exports, line, tiles } = this.strip;
    const above = this.skipped * line;
    exports[this.kernel](raw + above, line, FILTERED - 2 * this.skipped, mask + above, tiles, this.placeOf(column), less, this.next);
  }

  /** Of the first of its lines that are wanted, in the first tile. */
  private placeOf(column: number): number {
    return this.strip.at.columns + column * COLUMN + this.skipped * TILE_LINE;
  }

  /** Spreads some columns, from one on to the one before another. @param every of each so many lines */
  spread(first: number, end: number, every: number): void {
    const { at, exports, tiles } = this.strip;
    for (let column = first; column < end; column++)
      exports.spreadColumn(at.columns + column * COLUMN, this.next, tiles, every, at.spread + column * SPREAD_COLUMN, this.nextSpread);
  }
}
