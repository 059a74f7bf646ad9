import { TILE } from '../pair-noise.ts';
import type { Prepared } from './prepared-frame.ts';
import type { Places } from './warp.ts';

/** The places of a pixel in the neighbour that explain it: its own, and those left, right, above and below. */
const SHIFTS = 5;
/** Values of a pixel: its own, and at these places. */
const VALUES = SHIFTS + 1;
const PIXELS = TILE * TILE;
/** Fewer pixels tell nothing. */
const LEAST = 64;
/** What five places explain of nothing but noise. */
const BY_CHANCE = 0.07;
/** Added to the diagonal, as a share of it: places that show the same explain it together. */
const RIDGE = 1e-6;

/** What the features explain of a tile, and what its neighbour does not show of that. */
export interface PairedTile {
  /** The variance of what they explain. */
  readonly explained: number;
  /** How much of it the neighbour does not show, 0 to 1. */
  readonly share: number;
  /** Pixels away from rims that are seen in the neighbour. */
  readonly away: number;
  /** Of what it does not show there, the fourth moment over the squared second: three of noise. */
  readonly peaks: number;
  /** And how much better pixels side by side go together, as a correlation, than in what the features leave. */
  readonly smoother: number;
}

/** Compares tiles of what the features explain of a frame with what they explain of its neighbour. */
export class PairedTiles {
  /** By value and pixel of the tile. */
  private readonly values = new Float64Array(VALUES * PIXELS);
  /** What the features leave. */
  private readonly left = new Float64Array(PIXELS);
  /** 1 for pixels that are seen in the neighbour, 2 for those away from rims. */
  private readonly seen = new Uint8Array(PIXELS);
  private readonly sums = new Float64Array(VALUES * VALUES);

  constructor(
    private readonly own: Prepared,
    private readonly other: Prepared,
    private readonly places: Places,
  ) {}

  /** Compares a tile; null where too little of it is seen, or there is nothing. */
  compare(column: number, row: number): PairedTile | null {
    const pixels = this.gather(column, row);
    if (pixels < LEAST) return null;
    this.sumUp();
    const { sums, values } = this;
    if (!(sums[0]! > 0)) return null;
    const coefficients = this.solve();
    const followed = coefficients.reduce((sum, coefficient, i) => sum + coefficient * sums[(i + 1) * VALUES]!, 0) / sums[0]!;
    // The neighbour has as much chance in it: of what both share so much shows.
    const share = 1 - Math.sqrt(Math.max(0, (followed - BY_CHANCE) / (1 - BY_CHANCE)));
    for (let i = 0; i < PIXELS; i++) for (let k = 1; k < VALUES; k++) values[i]! -= coefficients[k - 1]! * values[k * PIXELS + i]!;
    return { explained: sums[0]! / pixels, share, ...this.looks() };
  }

  /** @returns how many pixels are seen */
  private gather(column: number, row: number): number {
    const { own, other, places, values, left, seen } = this;
    const { width, height } = own.grid;
    const shifts = [0, -1, 1, -width, width];
    const last = width * height - 1;
    values.fill(0);
    seen.fill(0);
    let count = 0;
    const [top, first] = [row * TILE, column * TILE];
    for (let y = top; y < Math.min(height, top + TILE); y++) {
      for (let x = first; x < Math.min(width, first + TILE); x++) {
        const [i, at] = [y * width + x, places[y * width + x]!];
        if (at < 0 || own.mask[i] === 0 || other.mask[at] === 0) continue;
        const to = (y - top) * TILE + x - first;
        count++;
        seen[to] = own.rims[i]! > 0 ? 1 : 2;
        left[to] = own.residuals[i]!;
        values[to] = own.target[i]! - own.residuals[i]!;
        for (let k = 0; k < SHIFTS; k++) {
          const there = at + shifts[k]!;
          if (there >= 0 && there <= last && other.mask[there] !== 0) values[(k + 1) * PIXELS + to] = other.target[there]! - other.residuals[there]!;
        }
      }
    }
    return count;
  }

  private sumUp(): void {
    const { values, sums } = this;
    for (let a = 0; a < VALUES; a++) {
      for (let b = 0; b <= a; b++) {
        let sum = 0;
        for (let i = 0; i < PIXELS; i++) sum += values[a * PIXELS + i]! * values[b * PIXELS + i]!;
        sums[a * VALUES + b] = sum;
        sums[b * VALUES + a] = sum;
      }
    }
  }

  /** Least squares of the own values on those at the places. */
  private solve(): number[] {
    const { sums } = this;
    const rows = Array.from({ length: SHIFTS }, (_, a) => [...sums.subarray((a + 1) * VALUES + 1, (a + 2) * VALUES), sums[(a + 1) * VALUES]!]);
    rows.forEach((own, a) => (own[a]! *= 1 + RIDGE));
    rows.forEach((own, k) => {
      const pivot = own[k]!;
      // Where a place shows nothing it explains nothing.
      if (!(pivot > 0)) return own.fill(0);
      for (const row of rows) {
        if (row === own) continue;
        const times = row[k]! / pivot;
        for (let b = k; b <= SHIFTS; b++) row[b]! -= times * own[b]!;
      }
    });
    return rows.map((own, k) => (own[k]! > 0 ? own[SHIFTS]! / own[k]! : 0));
  }

  /** What the neighbour does not show looks like, away from rims. */
  private looks(): Pick<PairedTile, 'away' | 'peaks' | 'smoother'> {
    const { values, left, seen } = this;
    let [away, second, fourth] = [0, 0, 0];
    const [unfollowed, usual] = [new Pairs(), new Pairs()];
    for (let i = 0; i < PIXELS; i++) {
      if (seen[i] !== 2) continue;
      const value = values[i]!;
      away++;
      second += value * value;
      fourth += value ** 4;
      for (const next of [(i + 1) % TILE === 0 ? PIXELS : i + 1, i + TILE]) {
        if (next >= PIXELS || seen[next] !== 2) continue;
        unfollowed.add(value, values[next]!);
        usual.add(left[i]!, left[next]!);
      }
    }
    return { away, peaks: (fourth * away) / second ** 2, smoother: unfollowed.correlation - usual.correlation };
  }
}

/** Pairs of numbers that are spread alike around zero. */
class Pairs {
  private both = 0;
  private each = 0;

  add(a: number, b: number): void {
    this.both += a * b;
    this.each += (a * a + b * b) / 2;
  }

  get correlation(): number {
    return this.both / this.each;
  }
}
