import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  acceptFinding,
  briefToHandOver,
  changedSince,
  composeNote,
  framePath,
  FrameSet,
  narrowBrief,
  packageWishSchema,
  parseBrief,
  parseFrameRange,
  sayWaivers,
  workOutOrder,
  type Brief,
  type Finding,
} from '../src/index.ts';

const brief = parseBrief({
  ...{ shot: 'orr_010', range: '1001-1020', fps: '24', version: 'v003', handles: [4, 2], resolution: [640, 360] },
  passes: [
    {
      name: 'beauty',
      role: 'beauty',
      pattern: 'beauty/b.####.exr',
      channels: ['R', 'G', 'B', 'A'],
      depth: 'half',
      alpha: 'premultiplied',
      colourSpace: 'scene linear',
    },
    { name: 'key', role: 'light', pattern: 'key/k.####.exr' },
    { name: 'sky', role: 'light', pattern: 'sky/s.####.exr', range: '1005-1020' },
    { name: 'motion', role: 'motion', pattern: 'motion/m.####.exr' },
  ],
});
const finding = (of: Partial<Finding>): Finding =>
  ({
    code: 'missing-frame',
    family: 'count',
    severity: 'blocker',
    pass: 'beauty',
    detail: '',
    frames: parseFrameRange('1003'),
    files: [],
    evidence: [],
    message: '1 frame has no file.',
    ...of,
  }) as Finding;
const filesOf = (one: Brief) => workOutOrder(one).passes.flatMap(({ pattern, frames }) => [...frames].map((frame) => framePath(pattern, frame)));

describe('what is handed over', () => {
  const chosen = (wish: object) => briefToHandOver(brief, packageWishSchema.parse(wish));

  it('is all of it where nothing is said, the brief as it is', () => {
    expect(chosen({})).toEqual(brief);
  });

  it('leaves the handles out, takes some passes and frames, and says nothing of the whole any more', () => {
    expect(chosen({ withHandles: false }).range).toBe('1005-1018');
    const some = chosen({ passes: ['sky', 'beauty'], range: '1001-1006' });
    expect(some.passes.map(({ name, range }) => [name, range])).toEqual([
      ['beauty', undefined],
      ['sky', '1005-1006'],
    ]);
    expect([some.range, some.handles]).toEqual(['1001-1006', undefined]);
  });

  it.each([
    [{ passes: ['glow'] }, 'orders no pass glow'],
    [{ range: '2000' }, 'orders none of 2000'],
    [{ passes: ['sky'], range: '1001-1002' }, 'the passes have none of the frames'],
    [{ range: '1001', withHandles: false }, 'orders none of'],
  ])('is refused where nothing is left: %j', (wish, words) => {
    expect(() => chosen(wish)).toThrow(words);
  });
});

describe('what is new since an earlier package', () => {
  const order = workOutOrder(brief);
  const sumOf = (file: string, changed: ReadonlySet<string>) => `${changed.has(file) ? 'b' : 'a'}-${file}`;

  it('is the changed frames alone, with what stayed and what went', () => {
    const before = new Map(filesOf(brief).map((file) => [file, `a-${file}`]));
    before.set('old/gone.0001.exr', 'x');
    const changed = new Set(['beauty/b.1003.exr', 'sky/s.1010.exr']);
    const delta = changedSince(order, (file) => sumOf(file, changed), before);
    expect(filesOf(delta.brief!)).toEqual([...changed]);
    expect([delta.unchanged, delta.gone]).toEqual([filesOf(brief).length - 2, ['old/gone.0001.exr']]);
    expect(delta.brief).toMatchObject({
      range: '1003,1010',
      passes: [
        { name: 'beauty', range: '1003' },
        { name: 'sky', range: '1010' },
      ],
    });
    expect(changedSince(order, (file) => sumOf(file, new Set()), before).brief).toBe(null);
  });

  it('adds up: what is new, what stayed and what is missing are all that was ordered', () => {
    const all = filesOf(brief);
    fc.assert(
      fc.property(fc.subarray(all), fc.subarray(all), fc.subarray(all), (changed, missing, known) => {
        const gone = new Set(missing);
        const before = new Map(known.map((file) => [file, `a-${file}`]));
        const delta = changedSince(order, (file) => (gone.has(file) ? null : sumOf(file, new Set(changed))), before);
        const fresh = delta.brief ? filesOf(delta.brief) : [];
        expect(fresh.length + delta.unchanged).toBe(all.length - gone.size);
        for (const file of fresh) expect(before.get(file)).not.toBe(sumOf(file, new Set(changed)));
      }),
      { numRuns: 60 },
    );
  });

  it('narrows a brief to passes and frames that are there at all', () => {
    expect(narrowBrief(brief, null, FrameSet.of([1001])).passes.map(({ name }) => name)).toEqual(['beauty', 'key', 'motion']);
  });
});

describe('the note to the compositor', () => {
  const missing = finding({});
  const odd = finding({
    code: 'size-outlier',
    severity: 'warning',
    pass: 'key',
    frames: parseFrameRange('1007'),
    message: 'It is the frame before once more.',
  });
  const facts = {
    ...{
      brief,
      findings: [missing, odd],
      isWaived: (one: Finding) => one === missing,
      isAssayed: true,
      vectors: 'pixels, right and down, to where a point was a frame before',
    },
    waivers: sayWaivers([{ subject: acceptFinding(missing), person: 'Mira Holm', reason: 'cut in the edit' }], [missing, odd], 'c'),
  };

  it('says what each pass is, how the lights sum, what was waived and what is known', () => {
    const note = composeNote(facts);
    expect(note).toMatch(
      /^# orr_010 v003: note to the compositor\n\nFrames 1001-1020 \(20\), 24 frames a second, 640 x 360 pixels, 4 frames of handle before and 2 behind the cut\./,
    );
    expect(note).toContain('- **beauty**: the whole picture, channels R G B A, half, premultiplied alpha, colour space scene linear.');
    expect(note).toContain('- **motion**: motion vectors, vectors: pixels, right and down, to where a point was a frame before.');
    expect(note).toContain('Measured: key + sky = beauty.');
    expect(note).toContain('## Waived\n\n- Frames missing beauty 1003: cut in the edit (Mira Holm)');
    expect(note).toContain('## Known\n\n- key 1007: It is the frame before once more.');
  });

  it('does not say that something was measured which was not', () => {
    const note = composeNote({ ...facts, isAssayed: false, vectors: null });
    expect(note).toContain('Ordered, not measured: key + sky = beauty.');
    expect(note).toContain('what they mean was not measured');
  });

  it('says where the lights do not sum', () => {
    const sum = finding({ code: 'sum-mismatch', family: 'passes', severity: 'warning', pass: 'beauty', message: 'In 4 % of the picture.' });
    expect(composeNote({ ...facts, findings: [sum] })).toContain('The lights do not sum to the beauty everywhere: In 4 % of the picture.');
  });

  it('tells waivers of what stands alone: not of frames that are others now', () => {
    const gate = (content: string) => ({ subject: { kind: 'gate' as const, gate: 'eyes' as const, content }, person: 'Ada', reason: 'watched' });
    expect(sayWaivers([gate('now'), gate('before')], [], 'now')).toEqual([{ what: 'the gate eyes', person: 'Ada', reason: 'watched' }]);
    expect(sayWaivers([{ subject: acceptFinding(missing), person: 'Ada', reason: 'fine' }], [], 'now')).toEqual([]);
  });
});
