// Where the points of a picture's pixels are in another frame.

/** The nearest pixel; -1 outside of the picture, and where a vector is no number. */
function placeAt(x: f64, y: f64, width: i32, height: i32): i32 {
  if (!(x >= -0.5 && y >= -0.5 && x < f64(width) - 0.5 && y < f64(height) - 0.5)) return -1;
  return i32(y + 0.5) * width + i32(x + 0.5);
}

/** Vectors say where a point came from; where it goes is found by going back from there, so many times. */
const ROUNDS = 3;

/** Places a frame earlier. @param out one 32-bit number a pixel; may stand where `across` does */
export function placesBefore(across: usize, down: usize, width: i32, height: i32, out: usize): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++, across += 4, down += 4, out += 4)
      store<i32>(out, placeAt(f64(x) + f64(load<f32>(across)), f64(y) + f64(load<f32>(down)), width, height));
  }
}

/**
 * Places a frame later, by that frame's vectors.
 *
 * @param across of the frame after, like `down`
 * @param ownAcross of the frame itself: what moves goes on about as it came
 * @param out one 32-bit number a pixel; may stand where `ownAcross` does
 */
export function placesAfter(across: usize, down: usize, ownAcross: usize, ownDown: usize, width: i32, height: i32, out: usize): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++, ownAcross += 4, ownDown += 4, out += 4) {
      let at = placeAt(f64(x) - f64(load<f32>(ownAcross)), f64(y) - f64(load<f32>(ownDown)), width, height);
      for (let round = 0; round < ROUNDS && at >= 0; round++) {
        const offset = usize(at) << 2;
        const next = placeAt(f64(x) - f64(load<f32>(across + offset)), f64(y) - f64(load<f32>(down + offset)), width, height);
        if (next == at) break;
        at = next;
      }
      store<i32>(out, at);
    }
  }
}
