import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  claimForMerge,
  formatFrameRange,
  parseBrief,
  planMerge,
  workOutOrder,
  type MergeCandidate,
  type MergeChoice,
  type MergeFacts,
  type MergeSource,
} from '../src/index.ts';

const order = workOutOrder(
  parseBrief({
    shot: 's',
    range: '1001-1010',
    passes: [
      { name: 'beauty', pattern: 'beauty/s_beauty.####.exr' },
      { name: 'depth', pattern: 'depth/s_depth.####.exr' },
    ],
  }),
);
const NOW = 1e12;

/** A source with files of these contents; a name's content stands behind a colon. */
const source = (name: string, ...files: string[]): MergeSource => ({
  name,
  files: files.map((file, i) => ({ path: file.split(':')[0], size: 100, modified: 1e9 + i, kind: 'file' })),
});
const contentsOf =
  (sources: readonly string[][]) =>
  (candidate: MergeCandidate): MergeFacts => {
    const [, content = candidate.path, samples = ''] = sources[candidate.source].find((file) => file.split(':')[0] === candidate.path)!.split(':');
    return { sha256: content, samples: samples === '' ? null : Number(samples) };
  };
const byRule = (rule: MergeChoice['rule'], rest: Partial<MergeChoice> = {}): MergeChoice => ({ rule, ownerOf: () => null, byHand: new Map(), ...rest });

function plan(lists: string[][], choice: MergeChoice) {
  const { claims, strays } = claimForMerge(
    order,
    lists.map((files, i) => source(`source ${i}`, ...files)),
    NOW,
  );
  return { ...planMerge(order, claims, contentsOf(lists), choice), strays };
}

const b = (frame: number, rest = '') => `beauty/s_beauty.${frame}.exr${rest}`;

describe('a merge', () => {
  it('takes what one source has, and tells the gaps', () => {
    const { steps, gaps, strays } = plan([[], [b(1001), b(1002)], [b(1003), b(1005), 'notes.txt']], byRule('newer'));
    expect(steps.map(({ target, from }) => `${target} ${from!.source}`)).toEqual(
      [1001, 1002, 1003, 1005].map((frame) => `${b(frame)} ${frame < 1003 ? 1 : 2}`),
    );
    expect(gaps.map(({ pass, frames }) => `${pass} ${formatFrameRange(frames)}`)).toEqual(['beauty 1004,1006-1010', 'depth 1001-1010']);
    expect(strays).toEqual([{ source: 2, path: 'notes.txt' }]);
  });

  it('skips the same bytes, and says so', () => {
    const [step] = plan([[], [b(1001, ':x')], [b(1001, ':x')]], byRule('newer')).steps;
    expect(step).toMatchObject({ from: { source: 1 }, same: [{ source: 2, path: b(1001) }], others: [], why: 'the same bytes' });
  });

  it('leaves in place what is there already', () => {
    expect(plan([[b(1001, ':x')], [b(1001, ':x')]], byRule('newer')).steps[0]).toMatchObject({ from: null, replaces: false });
    expect(plan([[b(1001)], []], byRule('newer')).steps[0]).toMatchObject({ from: null });
  });

  it('chooses between different bytes by rule, or by hand', () => {
    const lists = [[b(1001, ':own:16')], ['other.txt', b(1001, ':one:64')], [b(1001, ':two:64')]];
    expect(plan(lists, byRule('newer')).steps[0]).toMatchObject({ from: { source: 1 }, why: 'newer', replaces: true });
    expect(plan(lists, byRule('owner', { ownerOf: () => 2 })).steps[0]).toMatchObject({
      from: { source: 2 },
      why: expect.stringContaining('given to') as string,
    });
    expect(plan(lists, byRule('owner')).steps[0].why).toBe('given to none of them; newer');
    expect(plan(lists, byRule('samples')).steps[0].why).toBe('as many samples; newer');
    expect(plan([[b(1001, ':own:16')], [b(1001, ':one:64')]], byRule('samples')).steps[0]).toMatchObject({ from: { source: 1 }, why: 'more samples: 64' });
    const hand = new Map([[b(1001), { source: 0, path: b(1001) }]]);
    expect(plan(lists, byRule('newer', { byHand: hand })).steps[0]).toMatchObject({ from: null, why: 'chosen by hand', replaces: false });
    expect(plan(lists, byRule('newer')).steps[0].others.map(({ source: from, samples }) => [from, samples])).toEqual([
      [0, 16],
      [2, 64],
    ]);
  });

  it('understands other paddings, and sequences that lost their folder', () => {
    const { steps } = plan([[], ['beauty/s_beauty.01001.exr'], ['s_depth.1002.exr', 'night/s_beauty.1003.exr']], byRule('newer'));
    expect(steps.map(({ target, from, renamed }) => `${from!.path} > ${target}${renamed ? ' (renamed)' : ''}`)).toEqual([
      'beauty/s_beauty.01001.exr > beauty/s_beauty.1001.exr (renamed)',
      'night/s_beauty.1003.exr > beauty/s_beauty.1003.exr',
      's_depth.1002.exr > depth/s_depth.1002.exr',
    ]);
  });

  it('has exactly one file for each frame that any source has, whatever the rule', () => {
    const frames = fc.uniqueArray(fc.integer({ min: 1001, max: 1010 }));
    const contents = fc.constantFrom(':a:1', ':b:2', ':c:3');
    const lists = fc.array(fc.tuple(frames, contents), { minLength: 2, maxLength: 4 });
    fc.assert(
      fc.property(lists, fc.constantFrom('newer', 'samples', 'owner'), (all, rule) => {
        const files = all.map(([list, content]) => list.map((frame) => b(frame, content)));
        const { steps, gaps } = plan(files, byRule(rule, { ownerOf: (frame) => frame % all.length }));
        const have = new Set(all.flatMap(([list]) => list));
        expect(new Set(steps.map(({ frame }) => frame))).toEqual(have);
        expect(steps).toHaveLength(have.size);
        expect(
          steps.every(
            ({ from, same, others, frame }) =>
              same.length + others.length + 1 === all.filter(([list]) => list.includes(frame)).length && (from?.source ?? 0) < all.length,
          ),
        ).toBe(true);
        expect((gaps.find(({ pass }) => pass === 'beauty')?.frames.size ?? 0) + have.size).toBe(10);
      }),
    );
  });
});
