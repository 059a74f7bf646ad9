// What the light on surfaces is made of, a strip at a time: see noise.ts for what a strip is.

/** Sums of five lines, and then of five pixels side by side. @param sums a line with 16 bytes of zeros at either end */
function sumsAround(plane: usize, line: usize, sums: usize): void {
  for (let x: usize = 0; x < line; x += 16) {
    const at = plane + x;
    const far = f32x4.add(v128.load(at - 2 * line), v128.load(at + 2 * line));
    v128.store(sums + x, f32x4.add(f32x4.add(f32x4.add(v128.load(at - line), v128.load(at + line)), far), v128.load(at)));
  }
}

// What lies beside a pixel of such a line, two to either side.
function acrossFive(at: usize): v128 {
  const far = f32x4.add(v128.load(at - 8), v128.load(at + 8));
  return f32x4.add(f32x4.add(f32x4.add(v128.load(at - 4), v128.load(at + 4)), far), v128.load(at));
}

/**
 * Texture times smooth light, which carries shadow edges over texture: albedo times the mean of light over that of albedo,
 * 5 x 5 pixels each.
 *
 * @param light two lines more above and below than `rows`, like `albedo`
 * @param scratch room for two lines and 64 bytes
 */
export function litStrip(light: usize, albedo: usize, line: usize, rows: i32, scratch: usize, out: usize): void {
  const lights = scratch + 16;
  const albedos = lights + line + 32;
  v128.store(scratch, f32x4.splat(0));
  v128.store(lights + line, f32x4.splat(0));
  v128.store(albedos - 16, f32x4.splat(0));
  v128.store(albedos + line, f32x4.splat(0));
  // Means over 25 pixels, of which the 25th share falls out.
  const least = f32x4.splat(0.001 * 25);
  light += 2 * line;
  albedo += 2 * line;
  for (let y = 0; y < rows; y++, light += line, albedo += line, out += line) {
    sumsAround(light, line, lights);
    sumsAround(albedo, line, albedos);
    for (let x: usize = 0; x < line; x += 16) {
      const share = f32x4.div(acrossFive(lights + x), f32x4.add(acrossFive(albedos + x), least));
      v128.store(out + x, f32x4.mul(v128.load(albedo + x), share));
    }
  }
}

/** The least of four. */
function leastOf(lanes: v128): f32 {
  return min(min(f32x4.extract_lane(lanes, 0), f32x4.extract_lane(lanes, 1)), min(f32x4.extract_lane(lanes, 2), f32x4.extract_lane(lanes, 3)));
}

/** The least and the largest value over some lines of 20 pixels. What is no number does not count. @param out two 32-bit floats */
function spanOfBlock(plane: usize, line: usize, rows: i32, out: usize): void {
  let least = v128.load(plane);
  let most = least;
  for (let y = 0; y < rows; y++, plane += line) {
    for (let x: usize = 0; x < 80; x += 16) {
      const value = v128.load(plane + x);
      // One instruction each, where min and max, which keep what is no number, take several.
      least = f32x4.pmin(least, value);
      most = f32x4.pmax(most, value);
    }
  }
  store<f32>(out, leastOf(least));
  store<f32>(out, -leastOf(f32x4.neg(most)), 4);
}

const span = memory.data(8);

/** Whether all pixels of a block, and the two around it, are of one surface for each of them: then none has to be asked. */
function isOneSurface(normals: usize, plane: usize, depths: usize, line: usize, rows: i32, most: f32, tolerance: f32): bool {
  if (depths) {
    spanOfBlock(depths, line, rows, span);
    const least = load<f32>(span);
    if (!(least > 0 && load<f32>(span, 4) - least <= tolerance * least)) return false;
  }
  if (normals) {
    let apart: f32 = 0;
    for (let c: usize = 0; c < 3; c++) {
      spanOfBlock(normals + c * plane, line, rows, span);
      const width = load<f32>(span, 4) - load<f32>(span);
      apart += width * width;
    }
    if (!(apart <= most)) return false;
  }
  return true;
}

/** Lines of a block that is asked at once whether it is of one surface. */
export const BLOCK = 11;

/** Least and largest of five lines, of one plane. @param spans two lines with 16 bytes of room at either end, `next` bytes from each other */
function spanOfLines(plane: usize, line: usize, width: usize, spans: usize, next: usize): void {
  // And of the two pixels to either side.
  for (let x: usize = 0; x < width + 16; x += 16) {
    const from = plane + x - 8;
    let least = v128.load(from);
    let most = least;
    for (let row = line; row <= 4 * line; row += line) {
      const value = v128.load(from + row);
      least = f32x4.min(least, value);
      most = f32x4.max(most, value);
    }
    v128.store(spans + x - 8, least);
    v128.store(spans + next + x - 8, most);
  }
}

/** How far apart values of such lines are, two pixels to either side. */
function spanAcross(spans: usize, next: usize): v128 {
  let least = v128.load(spans - 8);
  let most = v128.load(spans + next - 8);
  for (let at = spans - 4; at <= spans + 8; at += 4) {
    least = f32x4.min(least, v128.load(at));
    most = f32x4.max(most, v128.load(at + next));
  }
  return f32x4.sub(most, least);
}

/**
 * Texture times the light of its own surface: as `litStrip`, but of the 5 x 5 pixels those alone count whose normal and distance
 * are nearly the pixel's. Carries edges of things, where light leaps and texture with it. Where all of them are of one surface
 * it is what `litStrip` says.
 *
 * @param normals three planes, `plane` bytes from each other; 0 where they are not known, like `depths`
 * @param most squared distance of normals
 * @param tolerance share by which distances may differ
 * @param lit what `litStrip` says
 * @param scratch room for eight times 96 bytes
 * @param flags for each 16 pixels of each 11 lines, whether all of them are of one surface; 32 bits each
 */
export function surfaceStrip(
  light: usize,
  albedo: usize,
  normals: usize,
  plane: usize,
  depths: usize,
  line: usize,
  rows: i32,
  most: f32,
  tolerance: f32,
  lit: usize,
  scratch: usize,
  flags: usize,
  out: usize,
): void {
  // What no pixel of a block has to be asked is copied; the others are gone through one after the other.
  for (let first = 0; first < rows; first += BLOCK) {
    const many = min(BLOCK, rows - first);
    const from = usize(first) * line;
    for (let x: usize = 0; x < line; x += 64, flags += 4) {
      const width = min<usize>(64, line - x);
      const isOne =
        width == 64 && isOneSurface(normals ? normals + from + x - 8 : 0, plane, depths ? depths + from + x - 8 : 0, line, many + 4, most, tolerance);
      store<i32>(flags, isOne);
      if (isOne) for (let y: usize = 0; y < usize(many); y++) memory.copy(out + from + y * line + x, lit + from + y * line + x, 64);
      else
        lightOwn(
          light + from + x,
          albedo + from + x,
          normals ? normals + from + x : 0,
          plane,
          depths ? depths + from + x : 0,
          line,
          width,
          many,
          most,
          tolerance,
          lit + from + x,
          scratch,
          out + from + x,
        );
    }
  }
}

/** The same of a block of up to 16 pixels across. */
function lightOwn(
  light: usize,
  albedo: usize,
  normals: usize,
  plane: usize,
  depths: usize,
  line: usize,
  width: usize,
  rows: i32,
  most: f32,
  tolerance: f32,
  lit: usize,
  scratch: usize,
  out: usize,
): void {
  const mostApart = f32x4.splat(most);
  const share = f32x4.splat(tolerance);
  const least = f32x4.splat(0.001);
  const next: usize = 64 + 32;
  const spans = scratch + 16;
  for (let y = 0; y < rows; y++, light += line, albedo += line, depths += depths ? line : 0, normals += normals ? line : 0, lit += line, out += line) {
    if (depths) spanOfLines(depths, line, width, spans, next);
    if (normals) for (let c: usize = 0; c < 3; c++) spanOfLines(normals + c * plane, line, width, spans + (2 + 2 * c) * next, next);
    for (let x: usize = 0; x < width; x += 16) {
      const middle = 2 * line + x;
      let isOne = i32x4.splat(-1);
      // What nothing is met behind is infinitely far: the difference is no number, and not of one surface.
      if (depths) isOne = f32x4.le(spanAcross(spans + x, next), f32x4.mul(share, f32x4.abs(v128.load(spans + x))));
      if (normals) {
        const a = spanAcross(spans + 2 * next + x, next);
        const b = spanAcross(spans + 4 * next + x, next);
        const c = spanAcross(spans + 6 * next + x, next);
        isOne = v128.and(isOne, f32x4.le(f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(c, c)), mostApart));
      }
      if (i32x4.all_true(isOne)) {
        v128.store(out + x, v128.load(lit + x));
        continue;
      }
      let lights = f32x4.splat(0);
      let albedos = f32x4.splat(0);
      // Addresses are told from two pixels before, since offsets have no sign.
      for (let row = x; row <= x + 4 * line; row += line) {
        for (let at = row; at <= row + 16; at += 4) {
          let isSame = i32x4.splat(-1);
          if (depths) {
            const here = v128.load(depths + middle);
            const apart = f32x4.abs(f32x4.sub(v128.load(depths - 8 + at), here));
            isSame = f32x4.le(apart, f32x4.mul(share, f32x4.abs(here)));
          }
          if (normals) {
            const a = f32x4.sub(v128.load(normals - 8 + at), v128.load(normals + middle));
            const b = f32x4.sub(v128.load(normals + plane - 8 + at), v128.load(normals + plane + middle));
            const c = f32x4.sub(v128.load(normals + 2 * plane - 8 + at), v128.load(normals + 2 * plane + middle));
            const apart = f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(c, c));
            isSame = v128.and(isSame, f32x4.le(apart, mostApart));
          }
          lights = f32x4.add(lights, v128.and(isSame, v128.load(light - 8 + at)));
          albedos = f32x4.add(albedos, v128.and(isSame, v128.load(albedo - 8 + at)));
        }
      }
      v128.store(out + x, f32x4.mul(v128.load(albedo + middle), f32x4.div(lights, f32x4.add(albedos, least))));
    }
  }
}
