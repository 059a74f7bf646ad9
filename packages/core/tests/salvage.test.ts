import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FrameFileError, memorySource, recogniseFormat, type DecodedFrame, type Salvaged } from '../src/index.ts';
import { fixture, tools } from './tools.ts';

const opened = (bytes: Uint8Array, name: string) => recogniseFormat(memorySource(bytes), name).open(memorySource(bytes));
const decoded = (name: string) => opened(fixture(name), name).decode(tools).frame;

/** What can be had of a damaged file; null where it says that there is nothing. */
function salvage(bytes: Uint8Array, name: string): Salvaged | null {
  try {
    return opened(bytes, name).salvage!(tools);
  } catch (thrown) {
    if (thrown instanceof FrameFileError) return null;
    throw thrown;
  }
}

/** Checks that every pixel outside of the damage is what it was, and counts those inside. */
function lostPixels({ frame, damage }: Salvaged, whole: DecodedFrame): number {
  const { width, height } = whole.planes[0]!;
  const isLost = (x: number, y: number) => damage.some(([left, top, wide, high]) => x >= left && x < left + wide && y >= top && y < top + high);
  let lost = 0;
  frame.planes.forEach((plane, i) => {
    const own = whole.planes[i]!;
    if (plane.width !== width || plane.height !== height) return;
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        if (isLost(x, y)) {
          if (i === 0) lost++;
        } else if (!Object.is(plane.data[plane.offset + (y * width + x) * plane.stride], own.data[own.offset + (y * width + x) * own.stride])) {
          throw new Error(`${plane.channel} at ${x}, ${y} is another value outside of the damage`);
        }
      }
    }
  });
  return lost;
}

const FILES = [
  'exr/rgba_half_zip.exr',
  'exr/rgba_half_zips.exr',
  'exr/rgba_half_piz.exr',
  'exr/rgba_half_none.exr',
  'exr/tiled_half_zip.exr',
  'exr/mipmap_half_zip.exr',
  'exr/window_half_zip.exr',
  'png/rgb8.png',
  'png/rgba16.png',
  'png/gray8.png',
  'png/palette8.png',
];

describe.each(FILES)('%s, damaged', (name) => {
  const bytes = fixture(name);
  const whole = decoded(name);
  const { width, height } = whole.planes[0]!;

  it('whole, is all there', () => {
    const all = salvage(bytes, name)!;
    expect([all.damage, lostPixels(all, whole)]).toEqual([[], 0]);
  });

  it('cut anywhere, gives what was written before, and says where nothing is', () => {
    let best = 0;
    fc.assert(
      fc.property(fc.double({ min: 0.4, max: 0.999, noNaN: true }), (share) => {
        const cut = bytes.slice(0, Math.floor(bytes.length * share));
        let some: Salvaged | null;
        try {
          some = salvage(cut, name);
        } catch (thrown) {
          // Cut before the header ends, it is no such file.
          expect(thrown).toBeInstanceOf(FrameFileError);
          return;
        }
        if (some) best = Math.max(best, 1 - lostPixels(some, whole) / (width * height));
      }),
      { numRuns: 12 },
    );
    expect(best).toBeGreaterThan(0.2);
  });

  it('with a byte changed in its pixels, never shows another value outside of what it outlines', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.55, max: 0.99, noNaN: true }), fc.integer({ min: 1, max: 255 }), (share, by) => {
        const changed = bytes.slice();
        changed[Math.floor(bytes.length * share)]! ^= by;
        // Pixels that are not packed, or by piz, have no checksum: nobody can know.
        if (/_(none|piz)\.exr$/.test(name)) return;
        const some = salvage(changed, name);
        if (some) lostPixels(some, whole);
      }),
      { numRuns: 12 },
    );
  });
});

describe('a chunk table that was never written', () => {
  it('does not matter where the chunks follow one another', () => {
    const name = 'exr/rgba_half_zips.exr';
    const bytes = fixture(name).slice();
    const whole = decoded(name);
    // The first entry of the table points behind the table.
    const view = new DataView(bytes.buffer);
    const { height } = whole.planes[0]!;
    let table = 0;
    for (let at = 8; at + 8 < bytes.length && table === 0; at++)
      if (view.getUint32(at + 4, true) === 0 && view.getUint32(at, true) === at + 8 * height) table = at;
    expect(table).toBeGreaterThan(0);
    bytes.fill(0, table, table + 8 * height);
    const all = salvage(bytes, name)!;
    expect([all.damage, lostPixels(all, whole)]).toEqual([[], 0]);
  });
});
