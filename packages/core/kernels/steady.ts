// How much of its neighbours in time each pixel of a frame takes: four pixels at a time.

/** How far places lie between pixels: 0 on one, 1 half-way to the next. */
function betweenPixels(places: v128): v128 {
  const part = f32x4.sub(places, f32x4.floor(places));
  return f32x4.mul(f32x4.splat(4), f32x4.mul(part, f32x4.sub(f32x4.splat(1), part)));
}

/**
 * What a neighbour differs by, over what noise explains, and what it is worth beside the frame's own.
 *
 * @param theirs squares of what is left around the neighbour's pixels; negative where it does not show the same
 * @param across, down the steps from pixel to pixel, of which what lies half-way between errs by `halfWay`
 * @param least variance that there always is
 * @param count pixels, a multiple of four
 * @param apart comes out, once more no larger than `most`, and `worth`; all are 0 where the same is not shown
 */
export function weighNeighbour(
  luminance: usize,
  grey: usize,
  left: usize,
  theirs: usize,
  deviation: usize,
  x: usize,
  y: usize,
  across: usize,
  down: usize,
  halfWay: f32,
  least: f32,
  most: f32,
  count: usize,
  apart: usize,
  capped: usize,
  worth: usize,
): void {
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  const little = f32x4.splat(least);
  for (let i: usize = 0; i < count << 2; i += 16) {
    const other = v128.load(theirs + i);
    const sigma = v128.load(deviation + i);
    const before = f32x4.add(f32x4.mul(sigma, sigma), little);
    const step = f32x4.add(f32x4.mul(betweenPixels(v128.load(x + i)), v128.load(across + i)), f32x4.mul(betweenPixels(v128.load(y + i)), v128.load(down + i)));
    const moved = f32x4.mul(f32x4.splat(halfWay), step);
    const own = v128.load(left + i);
    const error = f32x4.add(f32x4.add(other, before), f32x4.mul(moved, moved));
    const difference = f32x4.sub(v128.load(grey + i), v128.load(luminance + i));
    const isSeen = f32x4.ge(other, none);
    const far = v128.and(isSeen, f32x4.div(f32x4.mul(difference, difference), f32x4.add(own, error)));
    v128.store(apart + i, far);
    v128.store(capped + i, f32x4.min(f32x4.splat(most), far));
    v128.store(worth + i, v128.and(isSeen, f32x4.min(one, f32x4.div(f32x4.add(own, before), error))));
  }
}

/** How far something is trusted that differs by so much from what noise explains: 1 up to `free`, less beyond it. */
function trusted(apart: v128, ghost: f32, free: f32): v128 {
  const one = f32x4.splat(1);
  const beyond = f32x4.max(f32x4.splat(0), f32x4.sub(apart, f32x4.splat(free)));
  return f32x4.div(one, f32x4.add(one, f32x4.mul(f32x4.splat(ghost), beyond)));
}

/**
 * The share that each pixel takes of a neighbour, which is added to its weights; and what it was not given, which is added to
 * what it was refused.
 *
 * @param around, next what the neighbour differs by, in two means; beyond `free` it counts `ghost` times as an error
 * @param theirs negative where the neighbour does not show the same
 */
export function shareNeighbour(
  around: usize,
  next: usize,
  ghostAround: f32,
  freeAround: f32,
  ghostNext: f32,
  freeNext: f32,
  theirs: usize,
  worth: usize,
  count: usize,
  share: usize,
  weights: usize,
  refused: usize,
): void {
  const one = f32x4.splat(1);
  for (let i: usize = 0; i < count << 2; i += 16) {
    const least = f32x4.min(trusted(v128.load(around + i), ghostAround, freeAround), trusted(v128.load(next + i), ghostNext, freeNext));
    const trust = v128.and(least, f32x4.ge(v128.load(theirs + i), f32x4.splat(0)));
    const taken = f32x4.mul(trust, v128.load(worth + i));
    v128.store(share + i, taken);
    v128.store(weights + i, f32x4.add(v128.load(weights + i), taken));
    v128.store(refused + i, f32x4.add(v128.load(refused + i), f32x4.sub(one, trust)));
  }
}
