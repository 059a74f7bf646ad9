import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { assignFiles, framePath, parseBrief, parseNamePattern, relateNames, workOutOrder, type ListedFile, type NameRelation } from '../src/index.ts';

const ordered = parseNamePattern('beauty/orr_010_v004_beauty.####.exr');
const relation = (text: string): NameRelation | null => relateNames(parseNamePattern(text), ordered);

describe('how near a name is to the ordered one', () => {
  it.each<[string, NameRelation | null]>([
    ['beauty/orr_010_v004_beauty.#.exr', 'padding'],
    ['beauty/orr_010_v004_beauty_####.exr', 'name'],
    ['beauty/ORR_010_V004_Beauty.####.exr', 'name'],
    ['beauty/orr_010_v004_beauty.####.EXR', 'name'],
    ['beauty/orr-010-v004-beauty.####.exr', 'name'],
    ['elsewhere/orr_010_v004_beauty.####.exr', 'name'],
    ['beauty/orr_010_v003_beauty.####.exr', 'version'],
    ['beauty/orr_010_v12_beauty.####.exr', 'version'],
    ['beauty/orr_010_v004_beauty.####.png', 'format'],
    ['beauty/orr_010_v004_baeuty.####.exr', 'prefix'],
    ['beauty/orr_020_v004_beauty.####.exr', 'prefix'],
    ['beauty/orr_010_v004_depth.####.exr', null],
    ['beauty/something_else.####.exr', null],
    ['beauty/orr_010_v003_beauty.####.png', null],
  ])('%s is related by %s', (text, expected) => {
    expect(relation(text)).toBe(expected);
  });

  it('is the same seen from the other side, but for what a pattern holds', () => {
    const name = fc.stringMatching(/^[a-z]{2,8}(_[a-z0-9]{1,5}){0,3}$/);
    fc.assert(
      fc.property(name, name, (a, b) => {
        const [one, other] = [parseNamePattern(`${a}.####.exr`), parseNamePattern(`${b}.####.exr`)];
        expect(relateNames(one, other)).toBe(relateNames(other, one));
        expect(relateNames(one, one)).toBe('padding');
      }),
    );
  });
});

describe('which file stands for which frame', () => {
  const order = workOutOrder(
    parseBrief({
      shot: 's',
      range: '1001-1020',
      passes: [
        { name: 'beauty', pattern: 'beauty/orr_010_v004_beauty.####.exr' },
        { name: 'depth', pattern: 'depth/orr_010_v004_depth.####.exr' },
      ],
    }),
  );
  const file = (path: string, kind: ListedFile['kind'] = 'file'): ListedFile => ({ path, size: 1, modified: 0, kind });
  const slips: readonly ((frame: number) => string)[] = [
    (frame) => `beauty/orr_010_v004_beauty_${frame}.exr`,
    (frame) => `beauty/orr_010_v004_beauty.0${frame}.exr`,
    (frame) => `beauty/orr_010_v003_beauty.${frame}.exr`,
    (frame) => `beauty/ORR_010_v004_beauty.${frame}.exr`,
    (frame) => `beauty/orr_010_v004_beauty.${frame}.png`,
  ];

  it('says of every listed file exactly once what it is', () => {
    const placed = fc.array(
      fc.record({ frame: fc.integer({ min: 995, max: 1025 }), slip: fc.integer({ min: -1, max: slips.length - 1 }), stray: fc.boolean() }),
      { maxLength: 40 },
    );
    fc.assert(
      fc.property(placed, (list) => {
        const paths = new Set(
          list.map(({ frame, slip, stray }) => (stray ? `notes/${frame}.txt` : slip < 0 ? framePath(order.passes[0].pattern, frame) : slips[slip](frame))),
        );
        const listing = [...paths].map((path) => file(path));
        const { claims, unexpected, unplanned, strays, stillWriting } = assignFiles(order, listing, 1e12);
        const said = [
          ...claims.flatMap((byFrame) => [...byFrame.values()].flat().map((claim) => claim.file.path)),
          ...unexpected.map((claim) => claim.file.path),
          ...unplanned.flatMap((sequence) => sequence.files.map((entry) => entry.path)),
          ...strays.map((stray) => stray.path),
          ...stillWriting.map((claim) => claim.file.path),
        ];
        expect(said.sort()).toEqual([...paths].sort());
      }),
    );
  });

  it('never takes an exactly named file for anything else', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1001, max: 1020 }), { minLength: 1 }), fc.integer({ min: 0, max: slips.length - 1 }), (frames, slip) => {
        const listing = [...frames.map((frame) => file(framePath(order.passes[0].pattern, frame))), ...frames.map((frame) => file(slips[slip](frame)))];
        const { claims } = assignFiles(order, listing, 1e12);
        for (const frame of frames) expect(claims[0].get(frame)?.some((claim) => claim.relation === 'exact')).toBe(true);
      }),
    );
  });
});
