import { describe, expect, it } from 'vitest';
import {
  inReadingOrder,
  inspectFrameFile,
  memorySource,
  parseBrief,
  proposeBrief,
  sampleFiles,
  withImpliedKinds,
  type Brief,
  type FileFacts,
  type ListedFile,
} from '../src/index.ts';
import { tools } from './tools.ts';
import { count, exrFrame, pngFrame, sequence, type VirtualFolder } from './virtual-folder.ts';

const listingOf = (folder: VirtualFolder): ListedFile[] =>
  Object.entries(folder).map(([path, bytes]) => ({ path, size: bytes.length, modified: 0, kind: 'file' }));

/** What is proposed for a folder, with the kinds that a few of its files show. */
function propose(folder: VirtualFolder, name = 'orr_010'): Brief | null {
  const listing = listingOf(folder);
  const brief = proposeBrief(listing, name);
  if (!brief) return null;
  const facts = new Map<string, FileFacts>();
  for (const { path } of sampleFiles(brief, listing)) facts.set(path, inspectFrameFile(memorySource(folder[path]), path, 'headers', tools).facts);
  return withImpliedKinds(brief, listing, (file) => facts.get(file.path) ?? null);
}

describe('a proposed brief', () => {
  it('says of every pass what it is', () => {
    const folder = {
      ...sequence((n) => `depth/orr_010_v004_depth.${n}.exr`, 1001, 1008, exrFrame({ channels: ['Z'], type: 'float', compression: 'zips' })),
      ...sequence((n) => `beauty/orr_010_v004_beauty.${n}.exr`, 1001, 1008, exrFrame()),
    };
    expect(propose(folder)).toEqual({
      shot: 'orr_010',
      range: '1001-1008',
      fps: '24',
      resolution: [8, 6],
      passes: [
        { name: 'beauty', role: 'beauty', pattern: 'beauty/orr_010_v004_beauty.####.exr', channels: ['R', 'G', 'B', 'A'], depth: 'half', compression: ['zip'] },
        { name: 'depth', role: 'depth', pattern: 'depth/orr_010_v004_depth.####.exr', channels: ['Z'], depth: 'float', compression: ['zips'] },
      ],
    });
  });

  it('counts the folder that it was made from without a finding', () => {
    const folder = {
      ...sequence((n) => `a.${n}.png`, 1, 9, pngFrame({ samples: 4 })),
      ...sequence((n) => `sub/b_${n}_left.png`, 5, 9, pngFrame({ width: 4, wide: true })),
    };
    const result = count(folder, propose(folder));
    expect(result.findings).toEqual([]);
    expect(result.passes.map((pass) => pass.sound)).toEqual([9, 5]);
  });

  it('keeps a pass’s own range and size where they differ', () => {
    const folder = { ...sequence((n) => `beauty.${n}.png`, 1, 9, pngFrame()), ...sequence((n) => `matte.${n}.png`, 3, 7, pngFrame({ width: 4, height: 3 })) };
    expect(propose(folder)?.passes.map(({ name, role, range, resolution }) => ({ name, role, range, resolution }))).toEqual([
      { name: 'beauty', role: 'beauty', range: undefined, resolution: undefined },
      { name: 'matte', role: 'matte', range: '3-7', resolution: [4, 3] },
    ]);
  });

  it('takes what most files are, where one is odd', () => {
    const folder = sequence((n) => `b.${n}.png`, 1, 5, pngFrame());
    folder['b.0001.png'] = pngFrame({ width: 4, height: 3 });
    expect(propose(folder)?.resolution).toEqual([8, 6]);
  });

  it('looks past misnamed frames, leftovers and files that are no frames', () => {
    const folder: VirtualFolder = {
      ...sequence((n) => `b.${n}.png`, 1, 20, pngFrame()),
      'b_0021.png': pngFrame(),
      'b.0022.png.tmp': pngFrame(),
      'notes.txt': new Uint8Array(4),
      'log.1.txt': new Uint8Array(4),
    };
    const brief = propose(folder)!;
    expect(brief.passes.map((pass) => pass.pattern)).toEqual(['b.####.png']);
    expect(brief.range).toBe('1-21');
  });

  it.each([
    ['depth', 'depth'],
    ['z', 'depth'],
    ['world_normal', 'normal'],
    ['motion', 'motion'],
    ['ao', 'occlusion'],
    ['matte_glass', 'matte'],
    ['specular', 'light'],
    ['rgba', 'beauty'],
    ['puddle', 'other'],
  ])('takes a pass called %s for %s', (word, role) => {
    const folder = { ...sequence((n) => `s_${word}.${n}.png`, 1, 3, pngFrame()), ...sequence((n) => `s_xyzzy.${n}.png`, 1, 3, pngFrame()) };
    expect(propose(folder)?.passes.find((pass) => pass.name === word)?.role).toBe(role);
  });

  it('gives every pass a name of its own', () => {
    const folder = {
      ...sequence((n) => `a/b.${n}.png`, 1, 3, pngFrame()),
      ...sequence((n) => `a/b.${n}.exr`, 1, 3, exrFrame()),
      ...sequence((n) => `c/b.${n}.png`, 1, 3, pngFrame()),
    };
    const brief = propose(folder)!;
    expect(new Set(brief.passes.map((pass) => pass.name)).size).toBe(3);
    expect(() => parseBrief(brief)).not.toThrow();
  });

  it('is none where nothing is numbered', () => {
    expect(propose({})).toBeNull();
    expect(propose({ 'readme.txt': new Uint8Array(3), 'log.0001.txt': new Uint8Array(3) })).toBeNull();
  });
});

describe('channels in reading order', () => {
  it.each([
    [
      ['A', 'B', 'G', 'R'],
      ['R', 'G', 'B', 'A'],
    ],
    [['Z'], ['Z']],
    [
      ['Z', 'Y', 'X'],
      ['X', 'Y', 'Z'],
    ],
    [
      ['B', 'G', 'R', 'diffuse.B', 'diffuse.G', 'diffuse.R', 'albedo.R'],
      ['R', 'G', 'B', 'albedo.R', 'diffuse.R', 'diffuse.G', 'diffuse.B'],
    ],
    [
      ['A', 'Z', 'depth', 'R'],
      ['R', 'A', 'Z', 'depth'],
    ],
  ])('%j become %j', (names, ordered) => {
    expect(inReadingOrder(names)).toEqual(ordered);
  });
});
