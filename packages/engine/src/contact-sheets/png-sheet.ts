import type { ContactSheetSettings, SheetPage, SheetText } from '@mint-tally/core';
import sharp from 'sharp';
import { figuresFace, outline } from '../drawing/faces.ts';
import { GROUNDS } from './grounds.ts';
import { PIXELS, type DrawPage } from './make-sheet.ts';

/** Writes a page as one PNG. The pictures are put into it as they come, the letters over all at the end. */
export async function writePngSheet(target: string, page: SheetPage, draw: DrawPage, ground: ContactSheetSettings['ground']): Promise<void> {
  const [width, height] = [Math.round(page.width * PIXELS), Math.round(page.height * PIXELS)];
  const { paper, strong, soft } = GROUNDS[ground];
  const pixels = Buffer.alloc(width * height * 3, Buffer.from(paper));
  let at = 0;
  for await (const cell of draw(page)) {
    const { x, y } = page.cells[at++]!;
    const [left, top] = [Math.round(x * PIXELS), Math.round(y * PIXELS)];
    const across = Math.min(cell.width, width - left);
    for (let row = 0; row < cell.height && top + row < height; row++)
      pixels.set(cell.data.subarray(row * cell.width * 3, (row * cell.width + across) * 3), ((top + row) * width + left) * 3);
  }
  const tones = { strong: colour(strong), soft: colour(soft) };
  const letters = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${page.texts.map((text) => drawText(text, tones)).join('')}</svg>`;
  await sharp(pixels, { raw: { width, height, channels: 3 } })
    .composite([{ input: Buffer.from(letters) }])
    .removeAlpha()
    .png({ compressionLevel: 6 })
    .toFile(target);
}

const colour = (rgb: readonly [number, number, number]) => `rgb(${rgb.join(' ')})`.replaceAll(' ', ',');

function drawText({ x, y, size, text, tone, end }: SheetText, tones: Record<SheetText['tone'], string>): string {
  const face = figuresFace();
  const height = size * PIXELS;
  const left = x * PIXELS - (end === 'right' ? face.getAdvanceWidth(text, height) : 0);
  const glyphs = face.getPaths(text, left, y * PIXELS, height).map(outline);
  return `<path fill="${tones[tone]}" d="${glyphs.join('')}"/>`;
}
