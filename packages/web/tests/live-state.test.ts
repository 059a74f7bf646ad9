import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { applyEvent, changeOf, liveEventSchema, type LiveJob, type LiveState } from '$lib/jobs/live-state';

const empty: LiveState = { engines: 1, jobs: [], lastEnd: 0, counts: [] };

const job = (id: number, change: Partial<LiveJob> = {}): LiveJob => ({
  id,
  shotId: 7,
  kind: 'count',
  purpose: null,
  state: 'running',
  cancelRequested: false,
  error: null,
  progress: null,
  ...change,
});

describe('what the server tells pages that listen', () => {
  it('is nothing while nothing changes', () => {
    const state = { ...empty, jobs: [job(1)], counts: [{ shotId: 7, tallyId: 3 }] };
    expect(changeOf(state, structuredClone(state), [])).toBeNull();
  });

  it('names the jobs that say something else, and no other', () => {
    const before = { ...empty, jobs: [job(1), job(2, { shotId: 8 }), job(3, { shotId: 9 })] };
    const now = { ...empty, jobs: [job(1), job(2, { shotId: 8, cancelRequested: true }), job(4)] };
    expect(changeOf(before, now, [])).toMatchObject({ what: 'change', jobs: [{ id: 2 }, { id: 4 }], gone: [3], news: [] });
  });

  it('brings news of a shot whose job ended, and of one that was counted while it is rendered', () => {
    const before = { ...empty, counts: [{ shotId: 7, tallyId: 3 }] };
    const now = { ...empty, lastEnd: 5, counts: [{ shotId: 7, tallyId: 4 }] };
    const event = changeOf(before, now, [9])!;
    expect(applyEvent(before, event)).toEqual({ state: now, news: [9, 7] });
  });

  it('is news of everything for a page that had not listened while a job ended', () => {
    expect(applyEvent(empty, { what: 'all', state: { ...empty, lastEnd: 5 } }).news).toBe('all');
    expect(applyEvent(empty, { what: 'all', state: { ...empty, jobs: [job(1)] } }).news).toEqual([]);
    expect(applyEvent(empty, { what: 'all', state: { ...empty, counts: [{ shotId: 2, tallyId: 1 }] } }).news).toEqual([2]);
  });

  it('comes to the same as all of it, through any number of changes', () => {
    const state = fc.record({
      engines: fc.nat(2),
      lastEnd: fc.nat(3),
      counts: fc.uniqueArray(fc.record({ shotId: fc.nat(3), tallyId: fc.nat(3) }), { selector: ({ shotId }) => shotId }),
      jobs: fc
        .uniqueArray(fc.record({ id: fc.nat(6), cancelRequested: fc.boolean(), state: fc.constantFrom('queued', 'running', 'failed' as const) }), {
          selector: ({ id }) => id,
        })
        .map((jobs) => jobs.map(({ id, ...change }) => job(id, change)).sort((a, b) => a.id - b.id)),
    });
    fc.assert(
      fc.property(fc.array(state, { minLength: 1 }), (states) => {
        let page = empty;
        let before = empty;
        for (const now of states) {
          const event = changeOf(before, now, []);
          if (event) page = applyEvent(page, liveEventSchema.parse(JSON.parse(JSON.stringify(event)))).state;
          before = now;
        }
        expect(page).toEqual(states.at(-1));
      }),
    );
  });
});
