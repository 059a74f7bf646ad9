import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { countStates, FrameSet, makeLanes, parseBrief, workOutOrder } from '../src/index.ts';
import { count, exrFrame, NOW, pngFrame, sequence, short } from './virtual-folder.ts';
import { B, brief, changed, move, wholeShot } from './whole-shot.ts';

describe('a whole shot', () => {
  it('has no findings and is ready at every level', () => {
    for (const level of ['names', 'headers', 'full'] as const) {
      const result = count(wholeShot(), brief, { level });
      expect(result.findings).toEqual([]);
      expect(result.ready).toBe(true);
      expect(result.passes[0]).toEqual({
        name: 'beauty',
        expected: 10,
        sound: 10,
        missing: FrameSet.empty,
        broken: FrameSet.empty,
        unexpected: FrameSet.empty,
      });
    }
  });

  it('is whole without a brief as well', () => {
    const result = count(wholeShot(), null);
    expect(result.findings).toEqual([]);
    expect(result.passes.map((pass) => pass.name)).toEqual(['beauty/orr_010_v004_beauty.####.exr', 'depth/orr_010_v004_depth.####.exr']);
  });
});

describe('leftovers of writing', () => {
  const folder = changed((f) => move(f, B('1005'), `${B('1005')}.tmp`));

  it('are still being written while they are fresh', () => {
    const result = count(folder, brief, { modified: NOW - 1000 });
    expect(short(result)).toEqual(['still-writing beauty 1005']);
    expect(result.passes[0]).toMatchObject({ sound: 9, missing: FrameSet.empty, broken: FrameSet.of([1005]) });
  });

  it('are strays when they are old', () => {
    expect(short(count(folder, brief))).toEqual(['missing-frame beauty 1005', 'stray-file null']);
  });
});

describe('layers in the files of another pass', () => {
  const layered = {
    shot: 's',
    range: '1-4',
    passes: [
      { name: 'beauty', pattern: 'b.####.exr', channels: ['R', 'G', 'B'], depth: 'half' },
      { name: 'diffuse', pattern: 'b.####.exr', channels: ['diffuse.R', 'diffuse.G', 'diffuse.B'] },
    ],
  };
  const names = ['R', 'G', 'B', 'diffuse.R', 'diffuse.G', 'diffuse.B'];

  it('stand and fall with the file, which is told once', () => {
    const folder = sequence((n) => `b.${n}.exr`, 1, 4, exrFrame({ channels: names }));
    delete folder['b.0002.exr'];
    const result = count(folder, layered);
    expect(short(result)).toEqual(['missing-frame beauty 2']);
    expect(result.passes.map((pass) => [pass.sound, String(pass.missing)])).toEqual([
      [3, '2'],
      [3, '2'],
    ]);
  });

  it('lack their own channels alone', () => {
    const folder = sequence((n) => `b.${n}.exr`, 1, 4, exrFrame({ channels: names }));
    folder['b.0003.exr'] = exrFrame({ channels: names.slice(0, 4) });
    const result = count(folder, layered);
    expect(short(result)).toEqual(['wrong-channels diffuse 3']);
    expect(result.passes.map((pass) => pass.sound)).toEqual([4, 3]);
  });
});

describe('a folder without a brief', () => {
  it('takes misnamed frames for their sequence', () => {
    const folder = sequence((n) => `b.${n}.png`, 1, 20, pngFrame());
    move(folder, 'b.0005.png', 'b_0005.png');
    move(folder, 'b.0009.png', 'b.009.png');
    delete folder['b.0013.png'];
    expect(short(count(folder, null))).toEqual(['missing-frame b.####.png 13', 'wrong-name b.####.png 5', 'wrong-padding b.####.png 9']);
  });

  it('tells passes that run over other frames than the rest', () => {
    const run = (name: string, first: number, last: number) => sequence((n) => `${name}/${name}.${n}.png`, first, last, pngFrame({ seed: name.charCodeAt(0) }));
    const beauty = run('beauty', 1, 12);
    expect(short(count({ ...beauty, ...run('depth', 1, 12) }, null))).toEqual([]);
    const shorter = count({ ...beauty, ...run('depth', 1, 9) }, null);
    expect([short(shorter), shorter.ready]).toEqual([['pass-range-mismatch depth/depth.####.png 10-12'], false]);
    expect(shorter.findings[0]!.message).toBe('It runs over 1-9 where the other passes run over 1-12.');
    // Alone against two it is the one that is wrong, and its frames are as sound as before.
    const longer = count({ ...beauty, ...run('normal', 1, 12), ...run('depth', 1, 14) }, null);
    expect([short(longer), longer.passes.map(({ sound }) => sound)]).toEqual([['pass-range-mismatch depth/depth.####.png'], [12, 14, 12]]);
    // What is no pass of the picture may run as it likes, and what is ordered is counted by the order.
    expect(short(count({ ...beauty, ...run('slate', 1, 2) }, null))).toEqual([]);
  });

  it('tells the odd size against the others', () => {
    const folder = sequence((n) => `b.${n}.png`, 1, 6, pngFrame());
    folder['b.0004.png'] = pngFrame({ width: 4, height: 3 });
    expect(short(count(folder, null))).toEqual(['wrong-resolution b.####.png 4']);
  });
});

describe('the brief', () => {
  it('checks nothing that it does not state', () => {
    const bare = { shot: 's', range: '1-2', passes: [{ name: 'b', pattern: 'b.####.png' }] };
    const folder = { 'b.0001.png': pngFrame(), 'b.0002.png': pngFrame({ width: 3, samples: 4, wide: true }) };
    expect(count(folder, bare).findings).toEqual([]);
  });

  it('may change severities', () => {
    const strict = { ...brief, severities: { 'wrong-compression': 'blocker' } };
    expect(
      count(
        changed((f) => {
          f[B('1005')] = exrFrame({ compression: 'none' });
        }),
        strict,
      ).ready,
    ).toBe(false);
  });

  it.each([
    [{ ...brief, range: '10-1' }, 'range', /ends \(1\) before it starts/],
    [{ ...brief, fps: '0' }, 'fps', /nothing moves/],
    [{ ...brief, passes: [{ name: 'a', pattern: 'a.exr' }] }, 'passes.0.pattern', /no frame token/],
    [{ ...brief, passes: [brief.passes[0], brief.passes[0]] }, 'passes.1.name', /Two passes/],
    [{ range: '1', passes: brief.passes }, 'shot', /needs a name/],
    [{ ...brief, resolution: [0, 5] }, 'resolution.0', /At least 1/],
  ])('tells a wrong entry at its field (%#)', (value, field, message) => {
    try {
      parseBrief(value);
      expect.unreachable();
    } catch (thrown) {
      expect((thrown as { fields: Record<string, string> }).fields[field]).toMatch(message);
    }
  });
});

describe('lanes', () => {
  it('show the worst of each frame', () => {
    const result = count(
      changed((f) => {
        delete f[B('1002')];
        f[B('1004')] = new Uint8Array(0);
        f[B('1006')] = exrFrame({ compression: 'none' });
      }),
      brief,
    );
    const order = workOutOrder(parseBrief(brief));
    const [beauty, depth] = makeLanes(order, result.findings, () => false);
    expect(beauty.states).toBe('smsbsossss');
    expect(depth.states).toBe('ssssssssss');
    expect(makeLanes(order, result.findings, (finding) => finding.code === 'missing-frame')[0].states).toBe('swsbsossss');
    expect(makeLanes(order, null, () => false)[0].states).toBe('llllllllll');
  });

  it('put every ordered frame into exactly one state, whatever is wrong with it, and add up to what was ordered', () => {
    const damage = fc.array(fc.tuple(fc.integer({ min: 1001, max: 1010 }), fc.constantFrom('gone', 'empty', 'renamed', 'half', 'packed')), { maxLength: 12 });
    const order = workOutOrder(parseBrief(brief));
    fc.assert(
      fc.property(damage, fc.boolean(), (list, waives) => {
        const folder = wholeShot();
        const worst = new Map<number, string>();
        for (const [frame, what] of list) {
          const path = B(String(frame));
          if (worst.has(frame)) continue;
          worst.set(frame, what);
          if (what === 'empty') folder[path] = new Uint8Array(0);
          else if (what === 'half') folder[path] = exrFrame({ width: 2, height: 2 });
          else if (what === 'packed') folder[path] = exrFrame({ compression: 'none' });
          else {
            if (what === 'renamed') folder[path.replace('beauty.', 'Beauty_')] = folder[path];
            delete folder[path];
          }
        }
        const { findings } = count(folder, brief, { level: 'headers' });
        const lanes = makeLanes(order, findings, ({ code }) => waives && code === 'wrong-compression');
        const sums = countStates(lanes);
        expect(Object.values(sums).reduce((sum, number) => sum + number, 0)).toBe(order.passes.reduce((sum, { frames }) => sum + frames.size, 0));
        const times = (...kinds: string[]) => [...worst.values()].filter((what) => kinds.includes(what)).length;
        expect(sums).toMatchObject({ missing: times('gone'), broken: times('empty'), later: 0 });
        // A frame that is misnamed and packed otherwise is wrong; one that is packed otherwise alone is odd.
        expect(sums.wrong).toBe(times('renamed', 'half'));
        expect(sums[waives ? 'waived' : 'odd']).toBe(times('packed'));
      }),
      { numRuns: 60 },
    );
  });
});

describe('the sums', () => {
  it('count every ordered frame once: sound, missing and broken make up the order', () => {
    const damage = fc.array(fc.tuple(fc.integer({ min: 1001, max: 1010 }), fc.constantFrom('gone', 'empty', 'cut')), { maxLength: 8 });
    fc.assert(
      fc.property(damage, (list) => {
        const folder = wholeShot();
        const missing = new Set<number>();
        const broken = new Set<number>();
        for (const [frame, what] of list) {
          const path = B(String(frame));
          if (what === 'gone') delete folder[path];
          else if (folder[path]) folder[path] = folder[path].slice(0, what === 'empty' ? 0 : folder[path].length >> 1);
          if (!folder[path]) missing.add(frame);
          else broken.add(frame);
          if (missing.has(frame)) broken.delete(frame);
        }
        const [beauty] = count(folder, brief, { level: 'headers' }).passes;
        expect(beauty.missing).toEqual(FrameSet.of(missing));
        expect(beauty.broken).toEqual(FrameSet.of(broken));
        expect(beauty.sound).toBe(10 - missing.size - broken.size);
      }),
      { numRuns: 60 },
    );
  });
});
