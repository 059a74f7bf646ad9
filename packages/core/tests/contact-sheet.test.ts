import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  ContactSheetError,
  contactSheetSettingsSchema,
  layOutSheet,
  PAGE_HEIGHT,
  PAGE_WIDTH,
  parseBrief,
  planContactSheet,
  spreadFrames,
  titleSheet,
  workOutOrder,
  type SheetContent,
} from '../src/index.ts';

const brief = parseBrief({
  ...{ shot: 'orr_010', version: 'v003', range: '1001-1048', fps: '24' },
  passes: [
    { name: 'beauty', pattern: 'b.####.png' },
    { name: 'depth', pattern: 'd.####.png', range: '1001-1010' },
  ],
});
const order = workOutOrder(brief);
const settings = (more: object) => contactSheetSettingsSchema.parse({ passes: ['beauty'], ...more });
const head = { title: 'orr_010', subtitle: 'frames 1001-1048' };

describe('frames of a contact sheet', () => {
  it('are spread evenly, each once, with the first and the last', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 2, max: 100 }), (count, most) => {
        const frames = Array.from({ length: count }, (_, i) => 1001 + i);
        const chosen = spreadFrames(frames, most);
        expect(chosen).toHaveLength(Math.min(count, most));
        expect([chosen[0], chosen.at(-1)]).toEqual([1001, 1000 + count]);
        const gaps = chosen.slice(1).map((frame, i) => frame - chosen[i]!);
        if (gaps.length > 0) expect(Math.max(...gaps) - Math.min(...gaps)).toBeLessThanOrEqual(1);
        expect(gaps.every((gap) => gap > 0)).toBe(true);
      }),
    );
  });

  it('stand for their pass, with what is shown of it, and slates for those without a file', () => {
    const [section] = planContactSheet(order, settings({ most: 5 }), (_, frame) => (frame === 1001 ? null : `b.${frame}.png`));
    expect(section).toMatchObject({ pass: 'beauty', says: '1001-1048, 48 frames; 5 of them' });
    expect(section!.pictures.map(({ frame }) => frame)).toEqual([1001, 1013, 1025, 1036, 1048]);
    expect(section!.pictures[0]).toMatchObject({ file: null, timecode: '00:00:00:00' });
    expect(planContactSheet(order, settings({ passes: ['depth'], range: '1005-1020' }), () => null)[0]!.says).toBe('1005-1010, 6 frames');
    expect(titleSheet(order, 'for Ivo')).toEqual({ title: 'orr_010 v003', subtitle: 'frames 1001-1048, 24 frames a second, for Ivo' });
  });

  it('of a pass that is not ordered, of frames it has not, or too many are told', () => {
    expect(() => planContactSheet(order, settings({ passes: ['glow'] }), () => null)).toThrow('The brief orders no pass glow.');
    expect(() => planContactSheet(order, settings({ passes: ['depth'], range: '1020-1030' }), () => null)).toThrow('depth has none of the frames 1020-1030.');
    const long = workOutOrder(
      parseBrief({
        ...brief,
        range: '1-3000',
        passes: [
          { name: 'a', pattern: 'a.####.png' },
          { name: 'b', pattern: 'b.####.png' },
        ],
      }),
    );
    expect(() => planContactSheet(long, settings({ passes: ['a', 'b'], most: 1500 }), () => null)).toThrow(ContactSheetError);
  });
});

describe('pages of a contact sheet', () => {
  const content = fc.record({
    title: fc.constant('beauty'),
    says: fc.constant('1001-1048, 48 frames'),
    aspect: fc.double({ min: 0.2, max: 5, noNaN: true }),
    captions: fc.array(fc.constant(['1001', '00:00:00:00'] as const), { minLength: 1, maxLength: 60 }),
  });

  it('hold every picture once, in order, inside the page, none over another', () => {
    fc.assert(
      fc.property(fc.array(content, { minLength: 1, maxLength: 4 }), fc.integer({ min: 1, max: 16 }), (contents: SheetContent[], columns) => {
        const pages = layOutSheet(head, contents, columns, true);
        const cells = pages.flatMap((page) => page.cells);
        expect(cells.map(({ section, picture }) => `${section} ${picture}`)).toEqual(
          contents.flatMap(({ captions }, i) => captions.map((_, j) => `${i} ${j}`)),
        );
        for (const page of pages) {
          expect([page.width, page.height]).toEqual([PAGE_WIDTH, PAGE_HEIGHT]);
          expect(page.cells.length).toBeGreaterThan(0);
          for (const [i, { x, y, width, height, section }] of page.cells.entries()) {
            expect(width / height).toBeCloseTo(contents[section]!.aspect, 6);
            expect(x >= 0 && y >= 0 && x + width <= PAGE_WIDTH && y + height <= PAGE_HEIGHT).toBe(true);
            const next = page.cells[i + 1];
            if (next) expect(next.x >= x + width || next.y >= y + height).toBe(true);
          }
          for (const { y } of page.texts) expect(y).toBeLessThanOrEqual(PAGE_HEIGHT);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('are one as high as it has to be, or refused where nothing could open it', () => {
    const of = (count: number): SheetContent => ({
      title: 'beauty',
      says: '',
      aspect: 16 / 9,
      captions: Array.from({ length: count }, () => ['1', ''] as const),
    });
    const [page, ...more] = layOutSheet(head, [of(48)], 6, false);
    expect(more).toEqual([]);
    const last = page!.cells.at(-1)!;
    expect(page!.height).toBeGreaterThan(last.y + last.height);
    expect(page!.height).toBeLessThan(last.y + last.height + 60);
    expect(() => layOutSheet(head, [of(200)], 1, false)).toThrow('would be too high');
  });
});
