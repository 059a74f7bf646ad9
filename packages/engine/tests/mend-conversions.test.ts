import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { encodeExr, memorySource, readExrAttributes, readStringVector, stringVector } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { readMends } from '../src/index.ts';
import { codecTools } from '../src/inspection/codec-tools.ts';
import { beginMending, FRAMES, folder, tree, file, act, count, preview, mend, undo } from '../../../tests/support/mending.ts';

beginMending();

const reader = spawnSync('oiiotool', ['--version']).status === 0;

describe('a conversion', () => {
  it('in place is exact where it can be, keeps the originals, and leads back to the bytes', async () => {
    const before = tree();
    const original = planes('beauty/beauty.1001.exr');
    for (const compression of ['none', 'rle', 'zips', 'piz'] as const) {
      const { shown } = await preview({ kind: 'convert', to: { format: 'exr', compression } });
      expect(shown!.notes.every((note) => note.includes('exact to the bit'))).toBe(true);
      const journal = await mend({ kind: 'convert', to: { format: 'exr', compression } });
      expect((await count()).findings.filter(({ severity }) => severity === 'blocker')).toEqual([]);
      if (original !== null) expect(planes('beauty/beauty.1001.exr')).toEqual(original);
      await undo(journal);
      expect(tree()).toEqual(before);
    }
  });

  it('says what is lost before, with a figure', async () => {
    const { shown } = await preview({ kind: 'convert', passes: ['beauty'], to: { format: 'png', depth: '16', into: 'png' } });
    expect(shown!.notes.join()).toMatch(/values change by [\d.e-]+ at most/);
    const lossy = await preview({ kind: 'convert', passes: ['beauty'], to: { format: 'exr', compression: 'dwaa' } });
    expect(lossy.shown!.notes.join()).toMatch(/by [\d.]+ % on the whole, on 3 frames looked at/);
  });

  it.skipIf(!reader)('is read by a library that is not ours as the original is', async () => {
    const original = meansOf('beauty/beauty.1001.exr');
    for (const compression of ['rle', 'piz', 'pxr24', 'b44', 'dwaa', 'dwab'] as const) {
      const journal = await mend({ kind: 'convert', passes: ['beauty'], to: { format: 'exr', compression, into: compression } });
      const made = meansOf(`${compression}/beauty/beauty.1001.exr`);
      made.forEach((mean, c) => expect([compression, Math.abs(mean - original[c]!) < 0.004 * original[c]! + 1e-4]).toEqual([compression, true]));
      await undo(journal);
    }
    // The curve is taken out again, so that the means can be held against each other.
    for (const [format, extension] of [
      ['png', 'png'],
      ['tiff', 'tif'],
      ['dpx', 'dpx'],
      ['tga', 'tga'],
      ['jpeg', 'jpg'],
    ] as const) {
      const journal = await mend({
        kind: 'convert',
        passes: ['beauty'],
        to: { format, curve: 'linear', alpha: format === 'jpeg' ? 'none' : 'same', into: format },
      });
      const made = meansOf(`${format}/beauty/beauty.1001.${extension}`);
      const clipped = clippedMeansOf('beauty/beauty.1001.exr');
      made.slice(0, 3).forEach((mean, c) => expect([format, Math.abs(mean - clipped[c]!) < 0.01 ? 0 : mean - clipped[c]!]).toEqual([format, 0]));
      await undo(journal);
    }
  });

  it('splits a file of layers, and gathers passes into one', async () => {
    const journal = await mend({ kind: 'convert', to: { format: 'exr', layers: 'gather-layers', into: 'all' } });
    expect(readdirSync(file('all'))).toHaveLength(FRAMES);
    await undo(journal);
    expect(existsSync(file('all'))).toBe(false);
    const parts = await mend({ kind: 'convert', to: { format: 'exr', layers: 'gather-parts', into: 'all' } });
    if (reader) expect(execFileSync('oiiotool', ['--info', '-v', '-a', file('all/orr_010_layers.1001.exr')], { encoding: 'utf8' })).toMatch(/2 subimages/);
    await undo(parts);
  });

  it('gathers passes into the views of one file, which are not named where they are split again', async () => {
    const gathered = await mend({ kind: 'convert', to: { format: 'exr', layers: 'gather-views', into: 'views' } });
    const viewsOf = (name: string) => {
      const noted = readExrAttributes(memorySource(readFileSync(file(name)))).get('multiView');
      return noted ? readStringVector(noted) : null;
    };
    expect(viewsOf('views/orr_010_layers.1001.exr')).toEqual(['beauty', 'depth']);
    if (reader) expect(execFileSync('oiiotool', ['--info', '-v', file('views/orr_010_layers.1001.exr')], { encoding: 'utf8' })).toContain('depth.Z');
    await undo(gathered);
    // A file that somebody else made of two views, as a frame of the beauty.
    const views = { multiView: stringVector(['left', 'right']) };
    const data = Float32Array.of(0.25, 0.5);
    const channels = ['R', 'G', 'B', 'right.R', 'right.G', 'right.B'].map((name, i) => ({ name, type: 'float' as const, data: data.map((v) => v + i) }));
    const window = [0, 0, 1, 0] as const;
    const picture = { dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'none' as const, channels, metadata: {} };
    const before = readFileSync(file('beauty/beauty.1001.exr'));
    writeFileSync(file('beauty/beauty.1001.exr'), encodeExr({ ...picture, kept: new Map(Object.entries(views)) }, codecTools));
    const split = await mend({ kind: 'convert', frames: '1001', passes: ['beauty'], to: { format: 'exr', layers: 'split', into: 'split' } });
    expect(readdirSync(file('split/beauty')).sort()).toEqual(['beauty.1001.exr', 'beauty_right.1001.exr']);
    for (const name of readdirSync(file('split/beauty'))) expect(viewsOf(`split/beauty/${name}`)).toBe(null);
    await undo(split);
    writeFileSync(file('beauty/beauty.1001.exr'), before);
  });

  it('says which file stopped it, and what was done stays done', async () => {
    const { wish, seen } = await preview({ kind: 'convert', passes: ['beauty'], to: { format: 'exr', compression: 'piz' } });
    const bytes = readFileSync(file('beauty/beauty.1006.exr'));
    // As long as before and as old, but not what it was.
    writeFileSync(file('beauty/beauty.1006.exr'), Buffer.alloc(bytes.length, 7));
    const stopped = await act('apply', wish, seen);
    expect(stopped.error!.message).toContain('beauty.1006.exr has changed since the preview');
    const [left] = await readMends(folder);
    await undo(left!.head.id);
    expect(readdirSync(file('beauty'))).toHaveLength(FRAMES);
  });
});

function planes(name: string): string | null {
  if (!reader) return null;
  return execFileSync('oiiotool', [file(name), '--hash', '-v', '--info'], { encoding: 'utf8' }).match(/SHA-1: \w+/)?.[0] ?? null;
}
const stats = (args: string[]) =>
  /Stats Avg: ([\d. ]+)/
    .exec(execFileSync('oiiotool', args, { encoding: 'utf8' }))![1]!
    .trim()
    .split(/\s+/)
    .map(Number);
/** Means of the channels in the order in which the library gives them, as light or as codes of 0..1. */
function meansOf(name: string): number[] {
  return stats([file(name), '--ch', 'R,G,B', '--addc', '0', '--printstats']);
}
function clippedMeansOf(name: string): number[] {
  return stats([file(name), '--ch', 'R,G,B', '--clamp:min=0:max=1', '--printstats']);
}
