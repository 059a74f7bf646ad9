import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FrameFileError, memorySource, recogniseFormat, type DecodedFrame, type Salvaged } from '../src/index.ts';
import { fixture, tools } from './tools.ts';

const opened = (bytes: Uint8Array, name: string) => recogniseFormat(memorySource(bytes), name).open(memorySource(bytes));
const decoded = (name: string) => opened(fixture(name), name).decode(tools).frame;

/** What a file shows that tells of no damage; null where it does. */
function undamaged(bytes: Uint8Array, name: string): DecodedFrame | null {
  try {
    return opened(bytes, name).decode(tools).frame;
  } catch (thrown) {
    if (thrown instanceof FrameFileError) return null;
    throw thrown;
  }
}

/** What can be had of a damaged file; null where it says that there is nothing. */
function salvage(bytes: Uint8Array, name: string): Salvaged | null {
  try {
    return opened(bytes, name).salvage(tools);
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

const isSame = (a: DecodedFrame, b: DecodedFrame) => a.planes.every((plane, i) => Buffer.from(plane.data.buffer).equals(Buffer.from(b.planes[i]!.data.buffer)));

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
  'dpx/rgb8.dpx',
  'dpx/rgb10_msb.dpx',
  'dpx/rgba10.dpx',
  'dpx/rgb12_be.dpx',
  'tga/rgb24.tga',
  'tga/rgb24_bottom.tga',
  'tga/rgba32_rle.tga',
  'jpeg/baseline.jpg',
  'jpeg/gray.jpg',
  'jpeg/q60_420.jpg',
];

/** Nothing in these tells a changed pixel from another one. */
const WITHOUT_CHECKSUM = /_(none|piz)\.exr$|\.(dpx|tga|jpg)$/;

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
    if (WITHOUT_CHECKSUM.test(name)) return;
    let untold = 0;
    fc.assert(
      fc.property(fc.double({ min: 0.55, max: 0.99, noNaN: true }), fc.integer({ min: 1, max: 255 }), (share, by) => {
        const changed = bytes.slice();
        changed[Math.floor(bytes.length * share)]! ^= by;
        const some = salvage(changed, name);
        if (!some) return;
        // One change in some thousand makes others of a packed stream that cancel each other out in its checksum (Adler-32,
        // RFC 1950): nothing tells of them, and what is shown is what the file says.
        const shown = undamaged(changed, name);
        if (shown && !isSame(shown, whole)) untold++;
        lostPixels(some, shown ?? whole);
      }),
      { numRuns: 12 },
    );
    expect(untold).toBeLessThanOrEqual(1);
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

describe('a picture that comes from coarse to fine', () => {
  it('cut after its first scans, is shown, and outlined as a whole', () => {
    const name = 'jpeg/progressive.jpg';
    const bytes = fixture(name);
    const whole = decoded(name);
    const { frame, damage } = salvage(bytes.slice(0, Math.floor(bytes.length * 0.8)), name)!;
    const { width, height } = whole.header;
    expect(damage).toEqual([[0, 0, width, height]]);
    const difference = (a: ArrayLike<number>, b: ArrayLike<number>) => Array.from(a, (value, i) => Math.abs(value - b[i]!)).reduce((sum, one) => sum + one, 0);
    const nothing = new Uint8Array(whole.planes[0]!.data.length);
    expect(difference(frame.planes[0]!.data, whole.planes[0]!.data)).toBeLessThan(difference(nothing, whole.planes[0]!.data) / 10);
  });

  it('without its closing marker alone, says that nothing is lost of a plain one', () => {
    const name = 'jpeg/baseline.jpg';
    const some = salvage(fixture(name).slice(0, -2), name)!;
    expect([some.damage, lostPixels(some, decoded(name))]).toEqual([[], 0]);
  });
});

describe.each(['rgb16_none', 'rgb16_zip', 'rgb32f_zip', 'rgba8_zip', 'rgb16_tiled', 'rgb16_lzw', 'rgb8_planar'])('tiff/%s.tif, damaged', (stem) => {
  const name = `tiff/${stem}.tif`;
  const whole = decoded(name);
  const pixels = whole.header.width * whole.header.height;
  const damaged = (change: (blocks: LastBlock) => void) => {
    const bytes = fixture(name);
    const room = new Uint8Array(bytes.length * 2);
    room.set(bytes);
    const blocks = lastBlock(room, bytes.length);
    change(blocks);
    const some = salvage(room.subarray(0, blocks.size), name);
    return { some, lost: some ? lostPixels(some, whole) : pixels };
  };
  const blocks = Math.ceil(whole.header.width / whole.header.blocks![0]) * Math.ceil(whole.header.height / whole.header.blocks![1]);

  it('whole, is all there', () => {
    const { some, lost } = damaged(() => undefined);
    expect([some!.damage, lost]).toEqual([[], 0]);
  });

  it('with a block that was never written, gives the others, and says where that is', () => {
    const { some, lost } = damaged((block) => block.set(block.offset, 0));
    if (blocks === 1 && stem !== 'rgb8_planar') return expect(some).toBeNull();
    expect(some!.damage).toHaveLength(1);
    expect(lost).toBeGreaterThan(0);
    if (stem !== 'rgb8_planar') expect(lost).toBeLessThan(pixels / 2);
  });

  it('with a block that the end of the file cuts, gives what comes before where the packing allows it', () => {
    const { some, lost } = damaged((block) => block.moveToEnd(Math.floor(block.length * 0.6)));
    // Of a tile at the edge, what lacks may lie outside of the picture.
    if (stem !== 'rgb16_tiled') expect(lost).toBeGreaterThan(0);
    if (/none|zip|tiled/.test(stem)) expect(some && lost).toBeLessThan(pixels * 0.8);
  });
});

interface LastBlock {
  readonly offset: number;
  readonly length: number;
  /** How much of the room the file takes. */
  size: number;
  set(offset: number, length: number): void;
  /** Lets the file end with so many bytes of the block. */
  moveToEnd(kept: number): void;
}

/** Finds the entries of the last strip or tile in a file's first directory. */
function lastBlock(room: Uint8Array, size: number): LastBlock {
  const view = new DataView(room.buffer);
  const little = room[0] === 0x49;
  const directory = view.getUint32(4, little);
  const places = new Map<number, { at: number; short: boolean }>();
  for (let i = 0; i < view.getUint16(directory, little); i++) {
    const entry = directory + 2 + i * 12;
    const [tag, type, count] = [view.getUint16(entry, little), view.getUint16(entry + 2, little), view.getUint32(entry + 4, little)];
    const each = type === 3 ? 2 : 4;
    places.set(tag, { at: (count * each > 4 ? view.getUint32(entry + 8, little) : entry + 8) + (count - 1) * each, short: type === 3 });
  }
  const [offsets, lengths] = [places.get(273) ?? places.get(324)!, places.get(279) ?? places.get(325)!];
  const read = ({ at, short }: { at: number; short: boolean }) => (short ? view.getUint16(at, little) : view.getUint32(at, little));
  const write = ({ at, short }: { at: number; short: boolean }, value: number) =>
    short ? view.setUint16(at, value, little) : view.setUint32(at, value, little);
  const block: LastBlock = {
    offset: read(offsets),
    length: read(lengths),
    size,
    set(offset, length) {
      write(offsets, offset);
      write(lengths, length);
    },
    moveToEnd(kept) {
      write(offsets, size);
      room.copyWithin(size, block.offset, block.offset + kept);
      block.size = size + kept;
    },
  };
  return block;
}
