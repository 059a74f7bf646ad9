/**
 * A small generator of evenly spread numbers, seeded by frame, pixel and sample, so that the same seed
 * gives the same picture whatever the order of rendering (PCG-style hash, M. E. O'Neill 2014).
 */
export class Random {
  private state = 0;

  seed(a: number, b: number, c: number, d = 0): void {
    this.state = (Math.imul(a, 0x9e3779b1) ^ Math.imul(b + 1, 0x85ebca77) ^ Math.imul(c + 1, 0xc2b2ae3d) ^ Math.imul(d, 0x27d4eb2f)) >>> 0;
    this.next();
    this.next();
  }

  /** A number from 0 up to, but not, 1. */
  next(): number {
    this.state = (Math.imul(this.state, 747796405) + 2891336453) >>> 0;
    const word = Math.imul((this.state >>> ((this.state >>> 28) + 4)) ^ this.state, 277803737) >>> 0;
    return (((word >>> 22) ^ word) >>> 0) / 4294967296;
  }
}
