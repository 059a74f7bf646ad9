import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  assignFiles,
  borderFrame,
  compareAtBorder,
  conversionSchema,
  FrameSet,
  judgePatch,
  filesForPatch,
  listingWithPatch,
  mapFrames,
  parseBrief,
  parseFrameRange,
  parseFrameRate,
  planConform,
  planConvert,
  planHold,
  planPatch,
  planRestore,
  planTrim,
  sayFrameMap,
  workOutOrder,
  type Finding,
  type MendStep,
} from '../src/index.ts';

const NOW = 1e12;
const order = workOutOrder(
  parseBrief({
    shot: 'orr_010',
    range: '1001-1006',
    fps: '24',
    passes: [
      { name: 'beauty', role: 'beauty', pattern: 'beauty/b.####.exr' },
      { name: 'depth', role: 'depth', pattern: 'depth/d.####.exr' },
    ],
  }),
);
const listed = (paths: readonly string[]) => paths.map((path, i) => ({ path, size: 10 + i, modified: NOW - 1e9, kind: 'file' as const }));
const assigned = (...paths: string[]) => assignFiles(order, listed(paths), NOW);
const frames = (pass: 'beauty' | 'depth', ...numbers: number[]) => numbers.map((number) => `${pass}/${pass[0]}.${number}.exr`);
const shortly = (steps: readonly MendStep[]) => steps.map(({ action, from, to }) => `${action} ${from} ${to}`);
const all = { frames: FrameSet.empty, passes: [] };

describe('holding', () => {
  it('fills each hole with the nearest sound frame, the earlier of two, and marks it', () => {
    const { steps } = planHold(order, assigned(...frames('depth', 1001, 1002, 1005)), { ...all, passes: ['depth'] }, (_, frame) => frame !== 1002);
    expect(shortly(steps)).toEqual([
      'write depth/d.1001.exr depth/d.1003.exr',
      'write depth/d.1005.exr depth/d.1004.exr',
      'write depth/d.1005.exr depth/d.1006.exr',
    ]);
    expect(steps.every(({ stopgap, seen }) => stopgap && seen)).toBe(true);
  });

  it('gives no name of one format to a file of another, nor does a conform', () => {
    const own = assigned('depth/d.1001.png', 'depth/d.1002.png', ...frames('depth', 1005));
    expect(shortly(planHold(order, own, { frames: parseFrameRange('1003'), passes: ['depth'] }, () => true).steps)).toEqual([
      'write depth/d.1005.exr depth/d.1003.exr',
    ]);
    const map = mapFrames(FrameSet.range(1001, 1006), parseFrameRate('24'), parseFrameRate('12'));
    expect(shortly(planConform(order, own, map).steps)).toEqual(['set-aside depth/d.1005.exr depth/d.1005.exr']);
  });

  it('fills only what is named, and says where nothing could stand in', () => {
    const some = planHold(order, assigned(...frames('depth', 1001)), { frames: parseFrameRange('1003'), passes: ['depth'] }, () => true);
    expect(shortly(some.steps)).toEqual(['write depth/d.1001.exr depth/d.1003.exr']);
    expect(planHold(order, assigned(...frames('beauty', 1001)), all, () => true).conflicts.map(({ message }) => message)).toEqual([
      'No frame of depth is sound, so none can stand in for another.',
    ]);
  });
});

describe('trimming', () => {
  it('takes named frames of named passes besides what was not ordered', () => {
    const { steps } = planTrim(order, assigned(...frames('beauty', 1001, 1006, 1007), ...frames('depth', 1006)), new Set(), {
      frames: parseFrameRange('1001,1006'),
      passes: ['beauty'],
    });
    expect(shortly(steps).map((step) => step.split(' ')[1])).toEqual(['beauty/b.1001.exr', 'beauty/b.1006.exr', 'beauty/b.1007.exr']);
  });
});

describe('conforming', () => {
  const rates = ['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60', '12'].map((text) => parseFrameRate(text));

  it('keeps the time: every frame stands where it stood, to half a frame of either rate', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 3000 }), fc.constantFrom(...rates), fc.constantFrom(...rates), (count, from, to) => {
        const map = mapFrames(FrameSet.range(1001, 1000 + count), from, to);
        const [before, after] = [from.numerator / from.denominator, to.numerator / to.denominator];
        expect(Math.abs(map.from.length / after - count / before)).toBeLessThanOrEqual(Math.max(0.5, 1 - count) / after + 0.5 / after + 1e-9);
        map.from.forEach((frame, i) => {
          const middle = (i + 0.5) / after;
          // The frame that stands at the middle of its new turn.
          const expected = Math.min(count - 1, Math.floor(middle * before + 1e-9));
          expect(Math.abs(frame - 1001 - expected)).toBeLessThanOrEqual(1);
          expect(frame).toBeGreaterThanOrEqual(map.from[i - 1] ?? 1001);
        });
        expect(map.dropped.size + new Set(map.from).size).toBe(count);
      }),
    );
  });

  it('shows every second frame at half the rate, every frame twice at double', () => {
    expect(mapFrames(FrameSet.range(1, 6), parseFrameRate('24'), parseFrameRate('12')).from).toEqual([2, 4, 6]);
    expect(mapFrames(FrameSet.range(1, 3), parseFrameRate('24'), parseFrameRate('48')).from).toEqual([1, 1, 2, 2, 3, 3]);
  });

  it('adds a frame a second from 24 to 25, and drops one back', () => {
    const up = mapFrames(FrameSet.range(1, 240), parseFrameRate('24'), parseFrameRate('25'));
    expect([up.from.length, up.doubled.size, up.dropped.size]).toEqual([250, 10, 0]);
    const down = mapFrames(FrameSet.range(1, 250), parseFrameRate('25'), parseFrameRate('24'));
    expect([down.from.length, down.doubled.size, down.dropped.size]).toEqual([240, 0, 10]);
  });

  it('says what becomes of frames, time and sound', () => {
    const [from, to] = [parseFrameRate('24'), parseFrameRate('25')];
    expect(sayFrameMap(mapFrames(FrameSet.range(1001, 1048), from, to), 48, from, to)).toEqual([
      '48 frames at 24 become 50 frames at 25: 1001-1050.',
      'Shown more than once: 1013,1037.',
      'Timecode 00:00:00:00 to 00:00:01:23 becomes 00:00:00:00 to 00:00:01:24; a sound of 2.000 s meets 2.000 s of picture.',
    ]);
  });

  it('renames, copies and sets aside by the map', () => {
    const up = planConform(order, assigned(...frames('depth', 1001, 1002)), mapFrames(FrameSet.range(1001, 1002), parseFrameRate('24'), parseFrameRate('48')));
    expect(shortly(up.steps)).toEqual([
      'write depth/d.1001.exr depth/d.1002.exr',
      'rename depth/d.1002.exr depth/d.1003.exr',
      'write depth/d.1002.exr depth/d.1004.exr',
    ]);
    const down = planConform(
      order,
      assigned(...frames('depth', 1001, 1002, 1003, 1004)),
      mapFrames(FrameSet.range(1001, 1004), parseFrameRate('24'), parseFrameRate('12')),
    );
    expect(shortly(down.steps)).toEqual([
      'set-aside depth/d.1001.exr depth/d.1001.exr',
      'rename depth/d.1002.exr depth/d.1001.exr',
      'set-aside depth/d.1003.exr depth/d.1003.exr',
      'rename depth/d.1004.exr depth/d.1002.exr',
    ]);
  });
});

describe('bringing back', () => {
  const steps: MendStep[] = ['a', 'b'].map((from) => ({ action: 'set-aside', from, to: 'x', reason: 'why' }));
  it('brings back what is kept, all of it or what is named', () => {
    expect(shortly(planRestore('0001-t', steps, [], (path) => path.endsWith('/a')).steps)).toEqual(['rename .mint-set-aside/0001-t/files/a a']);
    expect(shortly(planRestore('0001-t', steps, ['b'], () => true).steps)).toEqual(['rename .mint-set-aside/0001-t/files/b b']);
    expect(planRestore('0001-t', steps, ['c'], () => true).conflicts).toEqual([{ files: ['c'], message: 'c is not kept in 0001-t.' }]);
  });
});

describe('a patch', () => {
  const own = assigned(...frames('beauty', 1001, 1002, 1003), ...frames('depth', 1001));
  const other = listed(['again/b.1002.exr', 'again/b.1003.exr', 'again/b.01003.exr', 'again/d.1001.exr', 'notes.txt']);

  it('takes the wanted frames by their names, and asks where two stand for one', () => {
    const { found, conflicts } = filesForPatch(order, other, [], (owner, frame) => owner === 0 && frame !== 1001, NOW);
    expect(found.map(({ target, file }) => `${file.path} ${target}`)).toEqual(['again/b.1002.exr beauty/b.1002.exr']);
    expect(conflicts).toHaveLength(1);
    expect(filesForPatch(order, other, ['depth'], () => true, NOW).found.map(({ frame }) => frame)).toEqual([1001]);
  });

  it('sets aside what it replaces, and brings the other', () => {
    const { found } = filesForPatch(order, other, ['beauty'], (_, frame) => frame === 1002, NOW);
    expect(shortly(planPatch(own, found, '/mnt/again').steps)).toEqual([
      'set-aside beauty/b.1002.exr beauty/b.1002.exr',
      'write /mnt/again/again/b.1002.exr beauty/b.1002.exr',
    ]);
    expect(listingWithPatch(listed(frames('beauty', 1001, 1002)), own, found).map(({ path, size }) => `${path} ${size}`)).toEqual([
      'beauty/b.1001.exr 10',
      'beauty/b.1002.exr 10',
    ]);
  });

  it('leaves out what would not be sound or is of another camera, and says what else would be new', () => {
    const { found } = filesForPatch(order, listed(frames('beauty', 1001, 1002, 1003, 1004)), [], () => true, NOW);
    const finding = (code: Finding['code'], severity: Finding['severity'], range: string, detail = ''): Finding => ({
      ...{ code, severity, detail, family: code === 'metadata-drift' ? 'kind' : code === 'jump' ? 'pixels' : 'soundness', pass: 'beauty' },
      ...{ frames: parseFrameRange(range), files: [], moreFiles: 0, message: `${code} ${detail}`.trim(), evidence: [] },
    });
    const before = [finding('jump', 'warning', '1004')];
    const after = [
      finding('truncated', 'blocker', '1001'),
      finding('metadata-drift', 'warning', '1002', 'camera “b” where “a” is usual'),
      finding('metadata-drift', 'warning', '1003', '4 samples where 16 are usual'),
      finding('jump', 'warning', '1001,1003-1004'),
    ];
    const { refused, words } = judgePatch(order, found, after, before);
    expect([...refused].map(([{ frame }, why]) => `${frame} ${why}`)).toEqual(['1001 truncated', '1002 metadata-drift camera “b” where “a” is usual']);
    expect(words.map(({ frame, message }) => `${frame} ${message}`)).toEqual(['1003 metadata-drift 4 samples where 16 are usual', '1003 jump']);
  });
});

describe('the border of a patch', () => {
  let state = 3;
  const random = () => (state = (state * 48271) % 2147483647) / 2147483647 - 0.5;
  const picture = (brightness: number, noise: number) => ({
    ...{ width: 96, height: 64 },
    values: Float32Array.from({ length: 96 * 64 }, (_, i) => brightness * (0.5 + 0.2 * Math.sin(i / 300)) + noise * (random() + random() + random())),
  });
  const outer = borderFrame(1002, picture(1, 0.02), { samples: 16, camera: 'lamp' });
  const further = borderFrame(1001, picture(1.003, 0.02), { samples: 16, camera: 'lamp' });
  const told = (brightness: number, noise: number, samples = 16) =>
    compareAtBorder(borderFrame(1003, picture(brightness, noise), { samples, camera: 'lamp' }), outer, further);

  it('is silent where the frames match', () => expect(told(1.002, 0.02)).toEqual([]));
  it('tells other brightness', () => expect(told(1.08, 0.02)).toEqual(['8 % brighter than frame 1002 beside it.']));
  it('tells other noise, and by how much', () => {
    const [word] = told(1, 0.04);
    expect(Number(/^(\d+) % more noise/.exec(word!)![1])).toBeGreaterThan(85);
    expect(Number(/^(\d+) % more noise/.exec(word!)![1])).toBeLessThan(115);
    expect(told(1, 0.01)[0]).toMatch(/^5\d % less noise|^4\d % less noise/);
  });
  it('tells other settings', () => expect(told(1, 0.02, 4)).toEqual(['Rendered with samples “4”, frame 1002 beside it with “16”.']));
  it('says nothing of a picture that has no light', () => {
    expect(compareAtBorder(borderFrame(1, null, {}), borderFrame(2, null, {}), null)).toEqual([]);
  });
});

describe('converting', () => {
  const conversion = (of: object) => conversionSchema.parse({ format: 'exr', ...of });
  const names = () => ['diffuse.R', 'diffuse.G', 'R', 'G'];

  it('sets originals aside in place, and leaves them beside a folder of its own', () => {
    const own = assigned(...frames('depth', 1001));
    expect(shortly(planConvert(order, own, all, conversion({ compression: 'piz' }), names).steps)).toEqual([
      'set-aside depth/d.1001.exr depth/d.1001.exr',
      'write depth/d.1001.exr depth/d.1001.exr',
    ]);
    expect(shortly(planConvert(order, own, all, conversion({ format: 'tiff', into: 'tiffs' }), names).steps)).toEqual([
      'write depth/d.1001.exr tiffs/depth/d.1001.tif',
    ]);
  });

  it('splits layers into files with their names before the number', () => {
    const { steps } = planConvert(order, assigned(...frames('beauty', 1001)), all, conversion({ layers: 'split' }), names);
    expect(steps.map(({ to, recipe }) => `${to} ${recipe!.channels.map(({ from, to: name }) => `${from}>${name}`).join()}`)).toEqual([
      'beauty/b_diffuse.1001.exr diffuse.R>R,diffuse.G>G',
      'beauty/b_plain.1001.exr R>R,G>G',
    ]);
  });

  it('gathers passes into layers, the beauty’s plain, or into parts', () => {
    const own = assigned(...frames('beauty', 1001, 1002), ...frames('depth', 1001));
    const channelsOf = (owner: number) => (owner === 0 ? ['R', 'G'] : ['Z']);
    const layers = planConvert(order, own, all, conversion({ layers: 'gather-layers', into: 'all' }), channelsOf).steps;
    expect(layers.map(({ to, recipe }) => `${to} ${recipe!.more.join()} ${recipe!.channels.map(({ file, to: name }) => `${file}${name}`).join()}`)).toEqual([
      'all/orr_010_layers.1001.exr depth/d.1001.exr 0R,0G,1depth.Z',
      'all/orr_010_layers.1002.exr  0R,0G',
    ]);
    const [parts] = planConvert(order, own, all, conversion({ layers: 'gather-parts' }), channelsOf).steps;
    expect(parts!.recipe!.channels.map(({ part, to }) => `${part}:${to}`)).toEqual(['beauty:R', 'beauty:G', 'depth:Z']);
  });

  it('gathers passes into views, the beauty the first, the name of the view behind that of the layer', () => {
    const own = assigned(...frames('beauty', 1001), ...frames('depth', 1001));
    const [made] = planConvert(order, own, all, conversion({ layers: 'gather-views' }), () => ['R', 'sky.R']).steps;
    expect(made!.recipe!.views).toEqual(['beauty', 'depth']);
    expect(made!.recipe!.channels.map(({ to }) => to)).toEqual(['R', 'sky.R', 'depth.R', 'sky.depth.R']);
  });

  it('keeps the channels that are named, and says where a pass has none of them', () => {
    const own = assigned(...frames('beauty', 1001), ...frames('depth', 1001));
    const channelsOf = (owner: number) => (owner === 0 ? ['R', 'G', 'B', 'A'] : ['Z']);
    const [, made] = planConvert(order, own, { ...all, passes: ['beauty'] }, conversion({ channels: ['R', 'A', 'Z'] }), channelsOf).steps;
    expect(made!.recipe!.channels.map(({ from }) => from)).toEqual(['R', 'A']);
    expect(planConvert(order, own, all, conversion({ channels: ['R'] }), channelsOf)).toEqual({
      steps: [],
      conflicts: [{ files: [], message: 'depth has none of the channels R: it has Z.' }],
    });
  });

  it('takes two files for one frame for a conflict', () => {
    const { conflicts } = planConvert(order, assigned('depth/d.1001.exr', 'depth/d.01001.exr'), all, conversion({}), names);
    expect(conflicts).toHaveLength(1);
  });

  it('never writes out of the shot’s folder', () => {
    for (const into of ['../x', '/x', 'a/../../b', 'a\\b']) expect(conversionSchema.safeParse({ format: 'exr', into }).success).toBe(false);
  });
});
