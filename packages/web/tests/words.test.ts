import { frameSetSchema, parseBrief, type Brief, stateOfFinding } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { briefInput, draftOf, emptyDraft, readDraft } from '$lib/brief/draft';
import { groupFindings, passesOf } from '$lib/docket/groups';
import type { ShownFinding } from '$lib/server/shot-state';
import { nextStep } from '$lib/shot/next-step';
import { counted, formatAgo, sayBytes, formatMoment, formatSeconds, isoMoment } from '$lib/text/format';

type Change = Partial<Omit<ShownFinding, 'frames'>> & { frames?: string };

/** Its frames in range notation. */
const finding = ({ frames = '3', ...change }: Change): ShownFinding => ({
  code: 'missing-frame',
  severity: 'blocker',
  family: 'count',
  pass: 'beauty',
  frames: frameSetSchema.parse(frames),
  files: [],
  moreFiles: 0,
  message: '1 frame has no file.',
  detail: '',
  evidence: [],
  waiver: null,
  ...change,
});
const waiver = { id: 1, person: 'Ada', reason: 'cut in the edit' };

describe('numbers for people', () => {
  it.each([
    [0, '0 bytes'],
    [1, '1 byte'],
    [999, '999 bytes'],
    [1000, '1.0 kB'],
    [332_866, '333 kB'],
    [999_600, '1.0 MB'],
    [18_400_000, '18 MB'],
    [5e12, '5.0 TB'],
  ])('%d bytes are %s', (bytes, text) => {
    expect(sayBytes(bytes)).toBe(text);
  });
  it.each([
    [0.2, '0 s'],
    [59, '59 s'],
    [99, '99 s'],
    [120, '2 min'],
    [3600, '1 h'],
    [4320, '1 h 12 min'],
    [400_000, '5 d'],
  ])('%d seconds are %s', (seconds, text) => {
    expect(formatSeconds(seconds)).toBe(text);
  });
  it('count and look back', () => {
    expect([counted(1, 'frame'), counted(1152, 'frame')]).toEqual(['1 frame', '1,152 frames']);
    const now = Date.parse('2026-11-24T12:00:00Z');
    expect([formatAgo('2026-11-24T11:59:59Z', now), formatAgo('2026-11-24T11:00:00Z', now)]).toEqual(['just now', '1 h ago']);
  });
});

describe('the docket', () => {
  it('joins what a stopped machine did to all passes, and puts blockers first and accepted last', () => {
    const groups = groupFindings([
      finding({ pass: 'beauty' }),
      finding({ code: 'wrong-compression', severity: 'warning', family: 'kind', frames: '5', message: 'other' }),
      finding({ pass: 'depth' }),
      finding({ code: 'duplicate-number', frames: '9' }),
      finding({ code: 'truncated', family: 'soundness', frames: '4', waiver }),
      finding({ code: 'stray-file', severity: 'note', pass: null, frames: '' }),
    ]);
    expect(groups.map((group) => [group.title, group.entries.map((entry) => entry.findings.map((one) => one.code))])).toEqual([
      ['To render', [['missing-frame', 'missing-frame']]],
      ['Decide', [['duplicate-number'], ['wrong-compression']]],
      ['Tidy', [['stray-file']]],
      ['Waived', [['truncated']]],
    ]);
    expect(passesOf(groups[0].entries[0], 2)).toBe('all 2 passes');
    expect(passesOf(groups[0].entries[0], 3)).toBe('beauty, depth');
  });

  it('does not join frames that differ', () => {
    expect(groupFindings([finding({ pass: 'beauty' }), finding({ pass: 'depth', frames: '4' })])[0].entries).toHaveLength(2);
  });
});

describe('the next step', () => {
  const count = { at: '', files: 1, opened: 1, bytes: 1, content: '', briefVersion: 1, stale: false, changes: null };
  const brief = parseBrief({
    shot: 'orr_010',
    range: '1-9',
    passes: [
      { name: 'beauty', role: 'beauty', pattern: 'b.####.exr' },
      { name: 'clean', role: 'beauty', pattern: 'c.####.exr', denoisedFrom: 'beauty' },
    ],
  });
  const state = { brief, count, findings: [] as ShownFinding[], gates: [], ready: false, handedOver: false };
  it.each([
    [{ ...state, count: null }, 'Count it for the first time'],
    [{ ...state, count: { ...count, stale: true } }, 'Count again: the brief changed'],
    [{ ...state, findings: [finding({ frames: '3-5' }), finding({ pass: 'depth', frames: '4-6' })] }, 'Render 4 frames'],
    [{ ...state, findings: [finding({ code: 'truncated', family: 'soundness', frames: '3-5' })] }, 'Render 3 frames again'],
    [
      { ...state, findings: [finding({ frames: '1-2' }), finding({ code: 'corrupt', family: 'soundness', frames: '3-5' })] },
      'Render 5 frames, 3 of them again',
    ],
    [{ ...state, findings: [finding({ pass: 'clean', frames: '3-5' })] }, 'Denoise 3 frames'],
    [{ ...state, findings: [finding({ pass: 'clean', frames: '3-5' }), finding({ pass: 'beauty', frames: '7' })] }, 'Render 1 frame'],
    [{ ...state, findings: [finding({ code: 'wrong-name', family: 'names', files: ['a'], moreFiles: 1 })] }, 'Rename 2 files'],
    [{ ...state, findings: [finding({ code: 'duplicate-number' })] }, 'Decide on 1 finding'],
    [{ ...state, ready: true }, 'Hand it over'],
    [{ ...state, ready: true, handedOver: true }, 'Handed over'],
  ])('is said in a few words (%#)', (shot, text) => {
    expect(nextStep(shot)).toBe(text);
  });
});

describe('a finding’s shape', () => {
  it.each<[Change & { waiver?: typeof waiver }, string | null]>([
    [{}, 'missing'],
    [{ code: 'missing-pass' }, 'missing'],
    [{ code: 'truncated' }, 'broken'],
    [{ code: 'trailing-data', severity: 'warning' }, 'odd'],
    [{ code: 'wrong-name' }, 'wrong'],
    [{ code: 'missing-region' }, 'wrong'],
    [{ code: 'jump', severity: 'warning' }, 'odd'],
    [{ code: 'stray-file', severity: 'note' }, null],
    [{ waiver }, 'waived'],
  ])('of %j is %s', (change, shape) => {
    expect(stateOfFinding(finding(change), change.waiver !== undefined)).toBe(shape);
  });
});

describe('a brief as it is typed', () => {
  const brief: Brief = parseBrief({
    shot: 'orr_010',
    range: '1001-1048',
    fps: '24',
    resolution: [640, 360],
    pixelAspect: 1,
    severities: { 'wrong-compression': 'blocker' },
    sampling: { samples: 64 },
    passes: [
      { name: 'beauty', role: 'beauty', pattern: 'b.####.exr', channels: ['R', 'G'], depth: 'half', compression: ['zip', 'zips'], alpha: 'premultiplied' },
      { name: 'depth', pattern: 'd.%04d.exr', range: '1001-1010', resolution: [320, 180] },
    ],
  });

  it('comes back as it was, with what the form does not show', () => {
    expect(parseBrief(JSON.parse(JSON.stringify(briefInput(draftOf(brief, 'note')))))).toEqual(brief);
  });

  it('states nothing that is left empty', () => {
    const draft = { ...emptyDraft('x'), range: '1-3', fps: '' };
    expect(parseBrief(JSON.parse(JSON.stringify(briefInput(draft))))).toEqual({
      shot: 'x',
      range: '1-3',
      passes: [{ name: 'beauty', pattern: 'beauty/x_beauty.####.exr' }],
    });
  });

  it('tells what is wrong at the field', () => {
    const draft = { ...draftOf(brief, ''), range: '1-x', width: '12.5', height: '', pixelAspect: 'wide' };
    expect(Object.keys(readDraft(draft).problems).sort()).toEqual(['pixelAspect', 'range', 'resolution.0', 'resolution.1']);
  });
});

describe('moments that no calendar has', () => {
  it('are told by their year, and written for machines as what they are', () => {
    expect(formatMoment(9.3e21)).toBe('about the year 294,705,270,083');
    expect(isoMoment(9.3e21)).toBe('9.3e+21');
    expect(isoMoment(0)).toBe('1970-01-01T00:00:00.000Z');
    expect(formatMoment('no date')).toBe('at no known time');
  });
});
