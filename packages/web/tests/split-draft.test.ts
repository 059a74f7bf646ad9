import { formatFrameRange, FrameSet } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import type { RemainderView, ServiceChoice } from '$lib/batch/batch-view';
import { nameOfPiece, SplitDraft, WATCHED } from '$lib/batch/split-draft.svelte';

const farm: ServiceChoice = {
  name: 'farm',
  machines: [
    { name: 'bowline', speed: 1, state: 'idle', medianSeconds: 2 },
    { name: 'reef', speed: 1, state: 'idle', medianSeconds: 4 },
    { name: 'clove', speed: 1, state: 'down', medianSeconds: null },
  ],
  command: 'orrery\n--frame={frame}',
  fixed: false,
  problem: '',
};
const remainder: RemainderView = {
  ordered: '1-20',
  render: '11-20',
  decide: '',
  passes: [
    { name: 'beauty', there: '1-10' },
    { name: 'depth', there: '1-20' },
  ],
  denoise: [],
  groups: [{ passes: ['beauty'], frames: '11-20' }],
};
const make = (change: Partial<RemainderView> = {}, choices: readonly ServiceChoice[] = [farm]) => new SplitDraft({ ...remainder, ...change }, () => choices);
const shown = (draft: SplitDraft) => draft.shares.map(({ machine, frames }) => `${machine} ${formatFrameRange(FrameSet.of(frames))}`);

describe('a split while it is made up', () => {
  it('begins with what is left, on the machines that are up, with the passes that need it', () => {
    const draft = make();
    expect(draft.range).toBe('11-20');
    expect(shown(draft)).toEqual(['bowline 11-15', 'reef 16-20']);
    expect(draft.passes.map(({ name, chosen }) => `${name} ${chosen}`)).toEqual(['beauty true', 'depth false']);
    expect(draft.hindrance).toBe('');
    expect(draft.request()).toMatchObject({ service: 'farm', command: ['orrery', '--frame={frame}'], passes: ['beauty'], overwrite: false });
  });

  it('takes over passes that lack the same frames', () => {
    const draft = make({
      groups: [
        { passes: ['depth'], frames: '1-20' },
        { passes: ['beauty'], frames: '11' },
      ],
    });
    expect([draft.range, draft.passes.map(({ name, chosen }) => `${name} ${chosen}`)]).toEqual(['1-20', ['beauty false', 'depth true']]);
    draft.chooseGroup({ passes: ['beauty'], frames: '11' }, false);
    expect(draft.request()).toMatchObject({ passes: ['beauty'], overwrite: false });
    draft.chooseGroup({ passes: ['beauty'], frames: '1-3' }, true);
    expect(draft.request().overwrite).toBe(true);
    draft.chooseGroup({ passes: ['beauty'], frames: '11' }, false);
    expect([draft.range, draft.overwritten]).toEqual(['11', []]);
  });

  it('shares by the speeds that typical times tell', () => {
    const draft = make();
    expect(draft.hasTypicalTimes).toBe(true);
    draft.takeSpeedsFromTimes();
    expect(draft.machines.map(({ speed }) => speed)).toEqual([1, 0.5, 1]);
    expect(shown(draft)).toEqual(['bowline 11-17', 'reef 18-20']);
  });

  it('lets a border be moved no further than its neighbours', () => {
    const draft = make();
    draft.moveBorder(1, 8.4);
    expect(shown(draft)).toEqual(['bowline 11-18', 'reef 19-20']);
    expect(draft.rule).toBe('hand');
    draft.moveBorder(1, 99);
    expect(draft.shares.map(({ frames }) => frames.length)).toEqual([10, 0]);
    expect(draft.proof.holds).toBe(true);
    // Other frames have other borders.
    draft.range = '11-14';
    expect(shown(draft)).toEqual(['bowline 11-12', 'reef 13-14']);
  });

  it('renders in the order into which the queue was dragged', () => {
    const draft = make();
    draft.chunk = 5;
    expect(draft.pieces.map(nameOfPiece)).toEqual(['11-15', '16-20']);
    draft.rule = 'interleaved';
    draft.chunk = 2;
    draft.setPieces([...draft.pieces].reverse());
    expect(draft.order).toBe('dragged');
    expect(draft.shares.map(({ frames }) => frames.join(' '))).toEqual(['19 20 15 16 11 12', '17 18 13 14']);
    expect(draft.proof.holds).toBe(true);
  });

  it('says what hinders it', () => {
    const draft = make();
    draft.range = '11-';
    expect(draft.hindrance).toBe('The range cannot be read.');
    expect(draft.frames.problem).not.toBe('');
    draft.range = '';
    expect(draft.hindrance).toBe('No frame is chosen.');
    draft.range = '9-12';
    expect(draft.overwritten.map(({ pass, frames }) => `${pass} ${formatFrameRange(frames)}`)).toEqual(['beauty 9-10']);
    expect(draft.hindrance).toContain('written over');
    draft.overwrite = true;
    expect(draft.hindrance).toBe('');
    for (const machine of draft.machines) machine.chosen = false;
    expect(draft.hindrance).toBe('Choose at least one machine.');
  });

  it('shares frames out over machines that people start by themselves', () => {
    const draft = make({}, []);
    draft.named = 'knot-a, knot-b knot-a';
    draft.rule = 'even';
    expect(shown(draft)).toEqual(['knot-a 11-15', 'knot-b 16-20']);
    expect(draft.request()).toMatchObject({ service: null, shares: [{ machine: 'knot-a' }, { machine: 'knot-b' }] });
    expect(draft.overwritten).toEqual([]);
  });

  it('falls back to watching where no service can be used', () => {
    const away = { ...farm, machines: [], problem: 'It is away.' };
    expect(make({}, [away]).hindrance).toBe('It is away.');
    const draft = make({}, []);
    expect(draft.service).toBe(WATCHED);
    expect(draft.hindrance).toBe('');
    expect(draft.request()).toMatchObject({ service: null, shares: [{ machine: '', frames: [11, 12, 13, 14, 15, 16, 17, 18, 19, 20] }] });
  });
});
