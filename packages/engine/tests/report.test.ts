import { gateNames, REPORT_KIND, reportSchema, type Report } from '@mint-tally/core';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { writePdfReport } from '../src/reports/pdf-report.ts';

const frames = Array.from({ length: 48 }, (_, i) => 1001 + i);
const report = (more: Partial<Report> = {}): Report =>
  reportSchema.parse({
    ...{ kind: REPORT_KIND, madeAt: '2026-01-02T03:04:05.000Z', project: 'Saltglass', shot: 'orr_050', version: 'v003', note: 'glass and brass' },
    ...{ briefVersion: 2, range: '1001-1048', fps: '24', resolution: [640, 360], ready: false, refusal: 'Open: noise (1 finding stops it).' },
    counted: { at: '2026-01-02T03:00:00.000Z', files: 48, bytes: 9_000_000 },
    passes: [
      {
        ...{ name: 'beauty', role: 'beauty', expected: 48, missing: '1005', broken: '' },
        states: { sound: 47, later: 0, waived: 0, odd: 0, wrong: 0, broken: 0, missing: 1 },
      },
    ],
    gates: gateNames.map((name) => ({ name, asks: 'Is it so', state: 'closed', says: 'Measured; nothing stands' })),
    ...{ findings: [], waivers: [], noise: null, eyes: [{ pass: 'beauty', watched: 40, left: '1041-1048' }], watchers: ['Mira Holm'] },
    stamp: { kind: 'sent-back', person: 'Ada', note: 'Lamp flickers', at: '2026-01-02T03:04:05.000Z', broken: '' },
    ...{ packages: [], ...more },
  });
const finding = (i: number): Report['findings'][number] => ({
  ...{
    code: 'noisy',
    title: 'Noisy',
    severity: 'warning',
    pass: 'beauty',
    frames: `${1001 + i}`,
    message: `Noise of 0.0${i} where 0.01 is ordered. `.repeat(8),
  },
  ...{ waived: i % 2 === 0 ? { person: 'Mira Holm', reason: 'Seen in motion.' } : null, picture: { pass: 'beauty', frame: 1001 + i } },
});
const write = async (one: Report, picture: Uint8Array | null = null) =>
  (
    await writePdfReport(
      one,
      async () => picture,
      (iso) => iso.slice(0, 10),
    )
  ).toString('latin1');
const pagesOf = (pdf: string) => pdf.match(/\/Type \/Page\b/g)?.length ?? 0;

describe('a report as PDF', () => {
  it('is one page where there is little to say', async () => {
    const pdf = await write(report());
    expect([pdf.startsWith('%PDF-'), pdf.trimEnd().endsWith('%%EOF'), pagesOf(pdf)]).toEqual([true, true, 1]);
  });

  it('goes over pages with many findings, each with its picture where there is one', async () => {
    const picture = await sharp({ create: { width: 64, height: 36, channels: 3, background: '#456' } })
      .jpeg()
      .toBuffer();
    const many = report({ findings: Array.from({ length: 40 }, (_, i) => finding(i)) });
    const [drawn, bare] = [await write(many, picture), await write(many)];
    expect(pagesOf(drawn)).toBeGreaterThan(2);
    expect(drawn.match(/\/Subtype \/Image/g)).toHaveLength(40);
    expect(bare).not.toContain('/Subtype /Image');
  });

  it('draws noise along the shot with holes, points alone, nothing known, and a target; no number of it is none', async () => {
    const values = frames.map((_, i) => (i % 10 === 4 || i === 6 ? null : 0.01 + 0.005 * Math.sin(i / 5)));
    const passes = [
      { pass: 'beauty', frames, values, usual: 0.01 },
      { pass: 'glow', frames: [1001], values: [0], usual: 0 },
      { pass: 'lamp', frames, values: frames.map(() => null), usual: null },
      { pass: 'none', frames: [], values: [], usual: null },
    ];
    for (const target of [0.012, null]) {
      // The library refuses to write a number that is none.
      expect(pagesOf(await write(report({ noise: { target, passes } })))).toBe(1);
    }
  });
});
