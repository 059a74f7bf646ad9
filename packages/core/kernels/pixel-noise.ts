// What is known of each pixel's noise before it is filtered.

/**
 * Light without its texture, and the standard deviation of each pixel's noise.
 *
 * @param albedo grey
 * @param squares of what surfaces do not explain; times `scales` that is the variance which they tell, beside that of tiles
 * @param ofTile how much the variance of tiles counts beside it, from 0 to 1
 * @param least darker texture counts as this
 * @param count pixels, a multiple of four
 */
export function tellNoise(
  luminance: usize,
  albedo: usize,
  squares: usize,
  scales: usize,
  tiles: usize,
  ofTile: f32,
  least: f32,
  count: usize,
  light: usize,
  texture: usize,
  deviation: usize,
): void {
  const none = f32x4.splat(0);
  const byTile = f32x4.splat(ofTile);
  const byPixel = f32x4.splat(1 - ofTile);
  for (let i: usize = 0; i < count << 2; i += 16) {
    const own = f32x4.max(f32x4.splat(least), v128.load(albedo + i));
    const told = f32x4.mul(byPixel, f32x4.mul(v128.load(squares + i), v128.load(scales + i)));
    const variance = f32x4.add(told, f32x4.mul(byTile, v128.load(tiles + i)));
    v128.store(texture + i, own);
    v128.store(light + i, f32x4.div(v128.load(luminance + i), own));
    v128.store(deviation + i, f32x4.sqrt(f32x4.max(none, variance)));
  }
}

/**
 * One over twice the variance of each pixel's light; known noise is made as large as the picture's.
 *
 * @param least variance that is never undercut: of the light's square
 * @param count pixels, a multiple of four
 */
export function tellTrust(light: usize, texture: usize, deviation: usize, least: f32, known: usize, count: usize, trust: usize): void {
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  const share = f32x4.splat(least);
  const little = f32x4.splat(1e-20);
  for (let i: usize = 0; i < count << 2; i += 16) {
    const own = v128.load(light + i);
    const sigma = v128.load(deviation + i);
    const ofLight = f32x4.div(sigma, v128.load(texture + i));
    const variance = f32x4.add(f32x4.mul(two, f32x4.mul(ofLight, ofLight)), f32x4.mul(share, f32x4.mul(own, own)));
    v128.store(trust + i, f32x4.div(one, f32x4.add(variance, little)));
    v128.store(known + i, f32x4.mul(v128.load(known + i), sigma));
  }
}
