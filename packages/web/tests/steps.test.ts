import { briefSchema, gateNames, type Gate, type GateState } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { briefInput, emptyDraft, newPass, usualKinds } from '$lib/brief/draft';
import { sizePresets } from '$lib/brief/presets';
import { gateQuestions, gateStates } from '$lib/coin/gates';
import type { ShotState } from '$lib/server/shot-state';
import { stepsOf } from '$lib/shot/steps';

const gates = (state: GateState): Gate[] => gateNames.map((name) => ({ name, state, blockers: 0, warnings: 0, waived: 0, unwatched: 0 }));
const count = { at: '', files: 1, bytes: 1, opened: 1, content: '', briefVersion: 1, stale: false, changes: null };
const state = (change: Partial<ShotState>) =>
  ({ count, findings: [], gates: gates('closed'), ready: true, handedOver: false, assay: null, ...change }) as unknown as ShotState;
const marks = (change: Partial<ShotState>) => Object.fromEntries(stepsOf(state(change)).map((step) => [step.path, step.mark]));

describe('the steps of a shot', () => {
  it('say how far the work has come', () => {
    expect(marks({ count: null, ready: false })).toEqual({
      brief: 'done',
      batch: 'empty',
      tally: 'empty',
      view: 'done',
      assay: 'empty',
      mend: 'empty',
      handoff: 'empty',
    });
    expect(marks({ count: { ...count, stale: true }, ready: false })).toMatchObject({ tally: 'empty' });
    expect(marks({})).toEqual({ brief: 'done', batch: 'empty', tally: 'done', view: 'done', assay: 'empty', mend: 'done', handoff: 'half' });
    expect(marks({ gates: gates('warned') })).toMatchObject({ tally: 'half', view: 'empty' });
    expect(marks({ gates: gates('waived') })).toMatchObject({ view: 'half' });
    expect(marks({ handedOver: true })).toMatchObject({ handoff: 'done' });
    const assay = { at: '' };
    expect(marks({ assay })).toMatchObject({ assay: 'done' });
    expect(marks({ assay, gates: gates('warned') })).toMatchObject({ assay: 'half' });
    expect(marks({ assay, gates: gates('open') })).toMatchObject({ assay: 'wrong' });
    // Signed for by hand, without an assay.
    expect(marks({ gates: gates('waived') })).toMatchObject({ assay: 'half' });
    for (const [batch, mark] of [
      ['running', 'half'],
      ['stopped', 'half'],
      ['failed', 'wrong'],
      ['done', 'done'],
    ] as const) {
      expect(marks({ batch })).toMatchObject({ batch: mark });
    }
  });

  it('say what is wrong only while nobody has accepted it', () => {
    const finding = (code: string, severity: string) => ({ code, severity, waiver: null }) as unknown as ShotState['findings'][number];
    const blocker = finding('wrong-name', 'blocker');
    expect(marks({ findings: [blocker], ready: false })).toMatchObject({ tally: 'wrong', mend: 'wrong' });
    expect(marks({ findings: [{ ...blocker, waiver: { id: 1, person: 'Ada', reason: 'fine' } }] })).toMatchObject({ tally: 'done', mend: 'done' });
    expect(marks({ findings: [finding('stray-file', 'note')] })).toMatchObject({ mend: 'half' });
    // What has to be rendered again is not mended by names and places.
    expect(marks({ findings: [finding('truncated', 'blocker')], ready: false })).toMatchObject({ tally: 'wrong', mend: 'done' });
  });

  it('are told in words too', () => {
    expect(stepsOf(state({})).map((step) => step.says)).toEqual([
      'saved',
      'nothing rendered here',
      'nothing stops the handoff',
      'watched',
      'not measured',
      'nothing to tidy',
      'ready',
    ]);
    expect(stepsOf(state({ count: null, ready: false, batch: 'stopped' })).map((step) => step.says)).toEqual([
      'saved',
      'was stopped',
      'not counted',
      'watched',
      'not measured',
      'not counted',
      'not ready',
    ]);
    expect(stepsOf(state({ handedOver: true })).at(-1)?.says).toBe('handed over');
  });
});

describe('the gates', () => {
  it('each ask something, and each state has a name', () => {
    expect(new Set(gateNames.map((gate) => gateQuestions[gate])).size).toBe(gateNames.length);
    expect(Object.keys(gateStates).sort()).toEqual(['closed', 'open', 'unmeasured', 'waived', 'warned']);
    expect(new Set(Object.values(gateStates).map((one) => one.title)).size).toBe(5);
  });
});

describe('what a form fills in', () => {
  it('is a brief that can be saved, for every role', () => {
    for (const [role, usual] of Object.entries(usualKinds)) {
      const draft = { ...emptyDraft('orr_010'), range: '1-10', passes: [{ ...newPass(role, `${role}.####.exr`), role, ...usual }] };
      expect(briefSchema.safeParse(JSON.parse(JSON.stringify(briefInput(draft)))).error).toBeUndefined();
    }
  });

  it('has sizes with the picture’s own proportions', () => {
    for (const { title, width, height, pixelAspect } of sizePresets) {
      const aspect = (width * pixelAspect) / height;
      expect(aspect).toBeGreaterThan(1.3);
      expect(aspect).toBeLessThan(2.45);
      expect(title).toContain(`${width} x ${height}`);
    }
    expect(new Set(sizePresets.map((preset) => preset.title)).size).toBe(sizePresets.length);
  });
});
