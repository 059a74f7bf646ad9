import { counted, frameStates, sayBytes, type FrameState, type Report } from '@mint-tally/core';
import PDFDocument from 'pdfkit';
import { faceFile } from '../drawing/faces.ts';

type Document = InstanceType<typeof PDFDocument>;
type Column = { readonly title: string; readonly width: number; readonly face?: 'figures' };

const MARGIN = 42;
/** A4 upright (ISO 216), in points. */
const [WIDTH, HEIGHT] = [595.28, 841.89];
const INNER = WIDTH - 2 * MARGIN;
const [INK, SOFT, LINE] = ['#141414', '#585858', '#c4c4c4'];
const BODY = 8.5;
const CHART = { width: 240, height: 40 };
const PICTURE = { width: 92, height: 58 };

/**
 * A report as pages that print well.
 *
 * @param pictureOf a finding's picture by its place, as JPEG; null where there is none
 * @param sayMoment a moment for people
 */
export async function writePdfReport(
  report: Report,
  pictureOf: (finding: number) => Promise<Uint8Array | null>,
  sayMoment: (iso: string) => string,
): Promise<Buffer> {
  const document = new PDFDocument({
    size: [WIDTH, HEIGHT],
    margin: MARGIN,
    bufferPages: true,
    info: { Title: `${report.shot}: report`, Creator: 'Mint Tally' },
  });
  const chunks: Buffer[] = [];
  document.on('data', (chunk: Buffer) => chunks.push(chunk));
  const ended = new Promise<void>((resolve, reject) => document.on('end', resolve).on('error', reject));
  for (const face of ['figures', 'text', 'bold'] as const) document.registerFont(face, faceFile(face));
  writeHead(document, report, sayMoment);
  writeGates(document, report);
  writePasses(document, report);
  await writeFindings(document, report, pictureOf);
  writeNoise(document, report);
  writePeople(document, report, sayMoment);
  const { count } = document.bufferedPageRange();
  for (let page = 0; page < count; page++) {
    document.switchToPage(page);
    // Below the margin a line would begin a new page.
    document.page.margins.bottom = 0;
    document.font('text').fontSize(7).fillColor(SOFT);
    document.text(`${report.project}, ${report.shot}: report of ${sayMoment(report.madeAt)}. Page ${page + 1} of ${count}.`, MARGIN, HEIGHT - 28, {
      lineBreak: false,
    });
  }
  document.end();
  await ended;
  return Buffer.concat(chunks);
}

function writeHead(document: Document, report: Report, sayMoment: (iso: string) => string): void {
  document.font('bold').fontSize(20).fillColor(INK).text([report.shot, report.version].filter(Boolean).join(' '));
  if (report.note !== '') document.font('text').fontSize(10).fillColor(SOFT).text(report.note);
  const facts = [
    report.project,
    `frames ${report.range}`,
    ...(report.fps === '' ? [] : [`${report.fps} frames a second`]),
    ...(report.resolution ? [report.resolution.join(' x ')] : []),
    `brief version ${report.briefVersion}`,
    report.counted ? `counted ${sayMoment(report.counted.at)}: ${counted(report.counted.files, 'file')}, ${sayBytes(report.counted.bytes)}` : 'not counted',
  ];
  document.font('text').fontSize(9).fillColor(SOFT).text(facts.join(', ')).moveDown(0.6);
  document
    .font('bold')
    .fontSize(12)
    .fillColor(INK)
    .text(report.ready ? 'Ready to hand over' : 'Not ready', { continued: false });
  if (!report.ready) document.font('text').fontSize(9).text(report.refusal);
  const { stamp } = report;
  const word = stamp && (stamp.kind === 'signed' ? 'Signed off by' : 'Sent back by');
  const broken = stamp && stamp.broken !== '' ? `. It does not hold any more: ${stamp.broken}` : '';
  document
    .font('text')
    .fontSize(9)
    .text(
      stamp ? `${word!} ${stamp.person}, ${sayMoment(stamp.at)}${stamp.note === '' ? '' : `: ${stamp.note}`}${broken}` : 'Nobody has signed this version off.',
    );
}

function heading(document: Document, text: string): void {
  room(document, 60);
  document.x = MARGIN;
  document.moveDown(1).font('bold').fontSize(11).fillColor(INK).text(text, MARGIN).moveDown(0.3);
}

/** Begins a page where less than this is left of the one. */
function room(document: Document, height: number): void {
  if (document.y + height > HEIGHT - MARGIN) document.addPage();
}

/** A row of cells, as high as its highest; with a line under it. */
function row(document: Document, columns: readonly Column[], cells: readonly string[], isHead = false): void {
  const faceOf = (i: number) => (isHead ? 'text' : (columns[i]!.face ?? (i === 0 ? 'bold' : 'text')));
  const tall = Math.max(
    ...cells.map((cell, i) =>
      document
        .font(faceOf(i))
        .fontSize(BODY)
        .heightOfString(cell === '' ? ' ' : cell, { width: columns[i]!.width - 8 }),
    ),
  );
  room(document, tall + 6);
  const top = document.y;
  let x = MARGIN;
  for (const [i, cell] of cells.entries()) {
    const { width } = columns[i]!;
    document
      .font(faceOf(i))
      .fontSize(BODY)
      .fillColor(isHead ? SOFT : INK)
      .text(cell, x, top + 2, { width: width - 8 });
    x += width;
  }
  document
    .moveTo(MARGIN, top + tall + 4)
    .lineTo(WIDTH - MARGIN, top + tall + 4)
    .lineWidth(0.5)
    .strokeColor(LINE)
    .stroke();
  document.x = MARGIN;
  document.y = top + tall + 6;
}

const GATE_STATES = { closed: 'closed', warned: 'closed, with warnings', waived: 'waived', open: 'open', unmeasured: 'not measured' } as const;

function writeGates(document: Document, { gates }: Report): void {
  heading(document, 'Gates');
  const columns = [
    { title: 'Gate', width: 70 },
    { title: 'Is', width: 95 },
    { title: 'Asks', width: 160 },
    { title: 'By', width: INNER - 325 },
  ];
  for (const { name, state, asks, says } of gates) row(document, columns, [name, GATE_STATES[state], asks, says]);
}

function writePasses(document: Document, { passes }: Report): void {
  heading(document, 'Counts');
  const names = Object.keys(frameStates) as FrameState[];
  const columns: Column[] = [
    ...[
      { title: 'Pass', width: 80 },
      { title: 'Ordered', width: 48, face: 'figures' as const },
    ],
    ...names.map((name) => ({ title: name === 'later' ? 'to come' : name, width: 46, face: 'figures' as const })),
    { title: 'Missing and broken', width: INNER - 128 - 46 * names.length, face: 'figures' },
  ];
  row(
    document,
    columns,
    columns.map(({ title }) => title),
    true,
  );
  for (const { name, expected, states, missing, broken } of passes) {
    const which = [...(missing === '' ? [] : [missing]), ...(broken === '' ? [] : [broken])].join('; ');
    row(document, columns, [name, String(expected), ...names.map((state) => String(states[state])), which]);
  }
}

async function writeFindings(document: Document, { findings, waivers }: Report, pictureOf: (finding: number) => Promise<Uint8Array | null>): Promise<void> {
  heading(document, findings.length === 0 ? 'Nothing was found' : counted(findings.length, 'finding'));
  for (const [i, { title, severity, pass, frames, message, waived, picture }] of findings.entries()) {
    const shown = picture ? await pictureOf(i) : null;
    room(document, shown ? PICTURE.height + 8 : 30);
    const [top, left] = [document.y, shown ? MARGIN + PICTURE.width + 10 : MARGIN];
    const width = WIDTH - MARGIN - left;
    if (shown) document.image(Buffer.from(shown), MARGIN, top, { fit: [PICTURE.width, PICTURE.height] });
    document.font('bold').fontSize(BODY).fillColor(INK).text(`${title} `, left, top, { width, continued: true });
    document.font('text').fillColor(SOFT).text([severity, pass, frames].filter(Boolean).join(', '), { width });
    document.font('text').fillColor(INK).text(message, left, document.y, { width });
    if (waived) document.fillColor(SOFT).text(`Waived by ${waived.person}: ${waived.reason}`, left, document.y, { width });
    if (shown) document.y = Math.max(document.y, top + PICTURE.height);
    document.x = MARGIN;
    document.y += 6;
  }
  if (waivers.length === 0) return;
  heading(document, 'Waived');
  for (const { what, person, reason } of waivers)
    document.font('text').fontSize(BODY).fillColor(INK).text(`${what}: ${reason} (${person})`, MARGIN, document.y, { width: INNER });
}

function writeNoise(document: Document, { noise }: Report): void {
  heading(document, 'Noise along the shot');
  if (!noise) {
    document.font('text').fontSize(BODY).fillColor(SOFT).text('These frames were not measured.');
    return;
  }
  for (const { pass, frames, values, usual } of noise.passes) {
    room(document, CHART.height + 18);
    const top = document.y;
    const known = values.flatMap((value) => (value === null ? [] : [value]));
    const most = Math.max(noise.target ?? 0, ...known, 1e-12);
    document.font('bold').fontSize(BODY).fillColor(INK).text(pass, MARGIN, top, { width: 90 });
    const says = usual === null ? 'cannot be measured' : `usually ${usual.toPrecision(3)}, at most ${Math.max(...known).toPrecision(3)}`;
    document
      .font('figures')
      .fontSize(7.5)
      .fillColor(SOFT)
      .text(says, MARGIN + 95, top + 1, { width: 150 });
    drawChart(document, { left: MARGIN + 255, top }, frames, values, most, noise.target);
    document.x = MARGIN;
    document.y = top + CHART.height + 16;
  }
}

function drawChart(
  document: Document,
  { left, top }: { readonly left: number; readonly top: number },
  frames: readonly number[],
  values: readonly (number | null)[],
  most: number,
  target: number | null,
): void {
  const x = (i: number) => left + (values.length < 2 ? CHART.width / 2 : (i / (values.length - 1)) * CHART.width);
  const y = (value: number) => top + CHART.height * (1 - value / most);
  document
    .lineWidth(0.5)
    .strokeColor(LINE)
    .moveTo(left, top + CHART.height)
    .lineTo(left + CHART.width, top + CHART.height)
    .stroke();
  if (target !== null)
    document
      .dash(3, { space: 2 })
      .strokeColor(INK)
      .moveTo(left, y(target))
      .lineTo(left + CHART.width, y(target))
      .stroke()
      .undash();
  document.lineWidth(0.9).strokeColor(INK);
  let drawn = false;
  for (const [i, value] of values.entries()) {
    if (value === null) drawn = false;
    // A frame between two of which nothing is known is a point.
    else if (!drawn && (values[i + 1] ?? null) === null) document.circle(x(i), y(value), 0.9).fill(INK);
    else {
      if (drawn) document.lineTo(x(i), y(value));
      else document.moveTo(x(i), y(value));
      drawn = true;
      if ((values[i + 1] ?? null) === null) document.stroke();
    }
  }
  document.font('figures').fontSize(6).fillColor(SOFT);
  document.text(String(frames[0] ?? ''), left, top + CHART.height + 2, { lineBreak: false });
  const last = String(frames.at(-1) ?? '');
  document.text(last, left + CHART.width - document.widthOfString(last), top + CHART.height + 2, { lineBreak: false });
}

function writePeople(document: Document, { eyes, watchers, packages }: Report, sayMoment: (iso: string) => string): void {
  heading(document, 'Who watched');
  const line = (text: string) => document.font('text').fontSize(BODY).fillColor(INK).text(text, MARGIN, document.y, { width: INNER });
  if (eyes.length === 0) line('The brief asks for no pass to be watched, or nothing has been counted.');
  for (const { pass, watched, left } of eyes)
    line(left === '' ? `${pass}: every frame, ${watched}` : `${pass}: ${counted(watched, 'frame')}; left are ${left}`);
  line(watchers.length === 0 ? 'Nobody has watched at the ordered rate and at full size.' : `At the ordered rate and at full size: ${watchers.join(', ')}.`);
  heading(document, 'Packages');
  if (packages.length === 0) line('None was written.');
  for (const { folder, at, actor, files, bytes, manifestSha256, receipts } of packages) {
    line(`${folder}, ${actor}, ${sayMoment(at)}: ${counted(files, 'file')}, ${sayBytes(bytes)}`);
    document.font('figures').fontSize(6.5).fillColor(SOFT).text(manifestSha256, MARGIN, document.y, { width: INNER });
    for (const receipt of receipts) line(`Receipt: ${receipt}`);
  }
}
