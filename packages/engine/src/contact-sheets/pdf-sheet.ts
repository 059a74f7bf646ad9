import { createWriteStream } from 'node:fs';
import { finished } from 'node:stream/promises';
import type { ContactSheetSettings, SheetPage } from '@mint-tally/core';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { faceFile } from '../drawing/faces.ts';
import { GROUNDS } from './grounds.ts';
import type { DrawPage } from './make-sheet.ts';

/** Of a photograph whose edges stay clean; colour in full size. */
const JPEG = { quality: 90, chromaSubsampling: '4:4:4' } as const;

/** Writes pages as PDF, each as soon as its pictures are there. @throws Error of the disk */
export async function writePdfSheet(target: string, pages: readonly SheetPage[], draw: DrawPage, ground: ContactSheetSettings['ground']): Promise<void> {
  const document = new PDFDocument({ autoFirstPage: false, info: { Title: pages[0]!.texts[0]!.text, Creator: 'Mint Tally' } });
  const { paper, strong, soft } = GROUNDS[ground];
  const file = createWriteStream(target);
  const written = finished(file);
  written.catch(() => undefined);
  document.pipe(file);
  document.registerFont('figures', faceFile('figures'));
  try {
    for (const page of pages) {
      document.addPage({ size: [page.width, page.height], margin: 0 });
      document.rect(0, 0, page.width, page.height).fill([...paper]);
      let at = 0;
      for await (const { data, width, height } of draw(page)) {
        const cell = page.cells[at++]!;
        const picture = await sharp(data, { raw: { width, height, channels: 3 } })
          .jpeg(JPEG)
          .toBuffer();
        document.image(picture, cell.x, cell.y, { width: cell.width, height: cell.height });
        if (file.errored) throw file.errored;
      }
      document.font('figures');
      for (const { x, y, size, text, tone, end } of page.texts) {
        document.fontSize(size).fillColor([...(tone === 'strong' ? strong : soft)]);
        document.text(text, end === 'right' ? x - document.widthOfString(text) : x, y, { baseline: 'alphabetic', lineBreak: false });
      }
    }
    document.end();
    await written;
  } finally {
    file.destroy();
  }
}
