import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  acceptedGates,
  acceptFinding,
  BAG_DECLARATION,
  BagError,
  coversFinding,
  findingCodes,
  frameSetSchema,
  formatFrameRange,
  FrameSet,
  gateNames,
  isMeasured,
  isReadyForHandoff,
  payloadOxum,
  waiverSubjectSchema,
  workOutGates,
  writeBagInfo,
  writeManifest,
  type Finding,
  type GateName,
} from '../src/index.ts';

type Change = Partial<Omit<Finding, 'frames'>> & { frames?: string };

/** Its frames in range notation. */
const finding = ({ frames = '1003-1005', ...change }: Change = {}): Finding => ({
  code: 'truncated',
  severity: 'blocker',
  family: 'soundness',
  pass: 'beauty',
  frames: frameSetSchema.parse(frames),
  files: ['a', 'b'],
  moreFiles: 0,
  message: '',
  detail: '',
  evidence: [],
  ...change,
});

describe('a manifest', () => {
  it('has a line a file: checksum, two blanks, path; in the order of the paths', () => {
    const entries = [
      { path: 'data/b.exr', sha256: 'b'.repeat(64) },
      { path: 'data/a.exr', sha256: 'a'.repeat(64) },
    ];
    expect(writeManifest(entries)).toBe(`${'a'.repeat(64)}  data/a.exr\n${'b'.repeat(64)}  data/b.exr\n`);
    expect(entries[0].path).toBe('data/b.exr');
    expect(writeManifest([])).toBe('');
  });

  it('keeps names that are merely unusual, and refuses those that two readers read differently', () => {
    expect(writeManifest([{ path: 'data/lamp \u2013 dusk #1.exr', sha256: 'c'.repeat(64) }])).toContain('data/lamp \u2013 dusk #1.exr');
    for (const path of ['a\nb', 'a\rb', 'a\\b', '100%']) expect(() => writeManifest([{ path, sha256: '' }])).toThrow(BagError);
  });

  it('comes apart again into what it was made from', () => {
    const path = fc.stringMatching(/^[A-Za-z0-9_./ -]{1,40}$/);
    fc.assert(
      fc.property(fc.uniqueArray(path, { maxLength: 20 }), (paths) => {
        const text = writeManifest(paths.map((one, i) => ({ path: one, sha256: String(i).padStart(64, '0') })));
        const lines = text.split('\n').slice(0, -1);
        expect(lines.map((line) => line.slice(66)).sort()).toEqual([...paths].sort());
      }),
    );
  });
});

describe('the tag files', () => {
  it('say what RFC 8493 asks for', () => {
    expect(BAG_DECLARATION).toBe('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n');
    expect(payloadOxum([10, 20, 5_000_000_000])).toBe('5000000030.3');
  });

  it('keep a value on its line', () => {
    expect(writeBagInfo([['Contact-Name', 'Ada\r\nPayload-Oxum: 0.0 ']])).toBe('Contact-Name: Ada Payload-Oxum: 0.0\n');
  });
});

describe('the gates', () => {
  it.each(Object.entries(findingCodes))('are open while a blocker %s stands', (code, { family }) => {
    const gates = workOutGates([finding({ code: code as Finding['code'], family })], () => false, new Set<GateName>(['eyes']), null, true);
    expect(gates.filter(({ state }) => state === 'open')).toHaveLength(1);
    expect(isReadyForHandoff(gates)).toBe(false);
  });

  const none: ReadonlySet<GateName> = new Set();
  const byHand = new Set(gateNames.filter((gate) => !isMeasured(gate)));
  const gatesOf = (findings: Parameters<typeof workOutGates>[0], isWaived: (finding: Finding) => boolean, accepted: ReadonlySet<GateName>) =>
    workOutGates(findings, isWaived, accepted, null);
  const states = (...rest: Parameters<typeof gatesOf>) => Object.fromEntries(gatesOf(...rest).map((gate) => [gate.name, gate.state]));

  it('are unmeasured before the first count, whatever was accepted before', () => {
    expect(new Set(Object.values(states(null, () => true, none)))).toEqual(new Set(['unmeasured']));
  });

  it('of passes and noise are closed by an assay that found nothing, and stay open without one', () => {
    const assayed = (isAssayed: boolean) => workOutGates([], () => false, none, null, isAssayed).filter(({ name }) => name === 'passes' || name === 'noise');
    expect(assayed(true).map(({ state }) => state)).toEqual(['closed', 'closed']);
    expect(assayed(false).map(({ state }) => state)).toEqual(['unmeasured', 'unmeasured']);
  });

  it('close by measurement, or by a person where nothing measures', () => {
    expect(states([], () => false, none)).toMatchObject({
      count: 'closed',
      soundness: 'closed',
      names: 'closed',
      kind: 'closed',
      passes: 'unmeasured',
      eyes: 'unmeasured',
    });
    expect(isReadyForHandoff(gatesOf([], () => false, none))).toBe(false);
    expect(isReadyForHandoff(gatesOf([], () => false, byHand))).toBe(true);
  });

  it('are open while a blocker stands, in its own family only', () => {
    const found = [
      finding(),
      finding({ code: 'wrong-compression', family: 'kind', severity: 'warning' }),
      finding({ code: 'stray-file', family: 'count', severity: 'note' }),
    ];
    expect(states(found, () => false, byHand)).toMatchObject({ count: 'closed', soundness: 'open', names: 'closed', kind: 'warned', eyes: 'waived' });
    expect(isReadyForHandoff(gatesOf(found, () => false, byHand))).toBe(false);
    expect(states(found, (one) => one.code === 'truncated', byHand).soundness).toBe('waived');
    expect(isReadyForHandoff(gatesOf(found, (one) => one.code === 'truncated', byHand))).toBe(true);
  });

  it('let nothing through that a blocker stands in, whatever else is there', () => {
    const some = fc.array(
      fc.record({
        severity: fc.constantFrom('blocker', 'warning', 'note' as const),
        family: fc.constantFrom('count', 'names', 'soundness', 'kind' as const),
        waived: fc.boolean(),
      }),
    );
    fc.assert(
      fc.property(some, (list) => {
        const findings = list.map(({ severity, family }, i) => finding({ severity, family, detail: String(i) }));
        const ready = isReadyForHandoff(gatesOf(findings, (one) => list[Number(one.detail)].waived, byHand));
        expect(ready).toBe(list.every(({ severity, waived }) => severity !== 'blocker' || waived));
      }),
    );
  });
});

describe('a waiver', () => {
  it('covers the finding that it was given for, and survives being stored', () => {
    for (const one of [finding(), finding({ frames: '', files: ['notes.txt'] }), finding({ pass: null, detail: 'x' })]) {
      const subject = waiverSubjectSchema.parse(JSON.parse(JSON.stringify(acceptFinding(one))));
      expect(coversFinding(subject, one)).toBe(true);
    }
  });

  it.each<[string, Change, boolean]>([
    ['fewer frames', { frames: '1004' }, true],
    ['one frame more', { frames: '1003-1006' }, false],
    ['other frames', { frames: '1-3' }, false],
    ['another pass', { pass: 'depth' }, false],
    ['another code', { code: 'corrupt' }, false],
    ['another detail', { detail: 'half' }, false],
    ['no frames', { frames: '' }, false],
  ])('for a finding, held against %s', (_, change, covered) => {
    expect(coversFinding(acceptFinding(finding()), finding(change))).toBe(covered);
  });

  it('covers exactly the frames that it names', () => {
    const frames = fc.uniqueArray(fc.integer({ min: -50, max: 50 }), { minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(frames, frames, (accepted, found) => {
        const range = (list: number[]) => formatFrameRange(FrameSet.of(list));
        const covered = coversFinding(acceptFinding(finding({ frames: range(accepted) })), finding({ frames: range(found) }));
        expect(covered).toBe(found.every((frame) => accepted.includes(frame)));
      }),
    );
  });

  it('of a finding without frames covers its files and no others', () => {
    const subject = acceptFinding(finding({ frames: '', files: ['a', 'b'] }));
    expect(coversFinding(subject, finding({ frames: '', files: ['b'] }))).toBe(true);
    expect(coversFinding(subject, finding({ frames: '', files: ['b', 'c'] }))).toBe(false);
  });

  it('of a gate holds for the content that was there', () => {
    const subjects = [
      { kind: 'gate', gate: 'eyes', content: 'one' },
      { kind: 'gate', gate: 'noise', content: 'two' },
    ] as const;
    expect(acceptedGates(subjects, 'one')).toEqual(new Set(['eyes']));
    expect(coversFinding(subjects[0], finding())).toBe(false);
  });
});
