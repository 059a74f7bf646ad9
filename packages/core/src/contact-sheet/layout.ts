import { ContactSheetError } from './plan.ts';

/** A line of text on a page; `y` is where its letters stand. All lengths of a page are points. */
export interface SheetText {
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly text: string;
  readonly tone: 'strong' | 'soft';
  /** Which end of the line `x` is. */
  readonly end: 'left' | 'right';
}

/** The place of a picture. */
export interface SheetCell {
  readonly section: number;
  readonly picture: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** A page of a contact sheet. */
export interface SheetPage {
  readonly width: number;
  readonly height: number;
  readonly texts: readonly SheetText[];
  readonly cells: readonly SheetCell[];
}

/** What is laid out of a pass. */
export interface SheetContent {
  readonly title: string;
  readonly says: string;
  /** Width by height of its pictures, as they are seen. */
  readonly aspect: number;
  /** What stands under each picture, at its left and its right end. */
  readonly captions: readonly (readonly [string, string])[];
}

/** A4 across (ISO 216), in points. */
export const PAGE_WIDTH = 841.89;
export const PAGE_HEIGHT = 595.28;
const [MARGIN, GAP] = [28, 8];
const [TITLE, HEADING, CAPTION] = [15, 10, 6.5];
/** From the top of a page to what is below its title. */
const HEAD = 44;
const FOOT = 14;
const HEADING_SPACE = 22;
const CAPTION_SPACE = 13;
/** A sheet that is one picture becomes as high as it has to, but no higher than others can open: 16,000 pixels at three a point. */
const HIGHEST = 16_000 / 3;
/** An advance of the figures' face, of its size. */
const ADVANCE = 0.62;

/**
 * Lays a contact sheet out: pass by pass, row by row; a heading never stands alone at a page's end, and a picture is never higher
 * than its page.
 *
 * @param paged pages of A4 across; otherwise one page as high as it has to be
 * @throws ContactSheetError when one page would be too high
 */
export function layOutSheet(
  head: { readonly title: string; readonly subtitle: string },
  contents: readonly SheetContent[],
  columns: number,
  paged: boolean,
): SheetPage[] {
  const bottom = paged ? PAGE_HEIGHT - MARGIN - FOOT : Infinity;
  const pages: { texts: SheetText[]; cells: SheetCell[] }[] = [];
  let y = 0;
  const turn = () => {
    const texts: SheetText[] = [
      { x: MARGIN, y: MARGIN + TITLE, size: TITLE, text: head.title, tone: 'strong', end: 'left' },
      { x: MARGIN, y: MARGIN + TITLE + 14, size: HEADING - 1, text: cut(head.subtitle, HEADING - 1, PAGE_WIDTH - 2 * MARGIN), tone: 'soft', end: 'left' },
    ];
    pages.push({ texts, cells: [] });
    y = MARGIN + HEAD;
  };
  turn();
  for (const [section, { title, says, aspect, captions }] of contents.entries()) {
    const column = (PAGE_WIDTH - 2 * MARGIN - (columns - 1) * GAP) / columns;
    // On a page of its own a tall picture gives way in width.
    const room = paged ? PAGE_HEIGHT - 2 * MARGIN - HEAD - FOOT - HEADING_SPACE - CAPTION_SPACE : Infinity;
    const height = Math.min(column / aspect, room);
    const width = height * aspect;
    const row = height + CAPTION_SPACE;
    for (let first = 0; first < captions.length; first += columns) {
      const needed = row + (first === 0 ? HEADING_SPACE : 0);
      if (y + needed > bottom && pages.at(-1)!.cells.length > 0) turn();
      const { texts, cells } = pages.at(-1)!;
      if (first === 0) {
        texts.push(
          { x: MARGIN, y: y + HEADING + 3, size: HEADING, text: title, tone: 'strong', end: 'left' },
          { x: PAGE_WIDTH - MARGIN, y: y + HEADING + 3, size: HEADING - 2, text: cut(says, HEADING - 2, PAGE_WIDTH / 2), tone: 'soft', end: 'right' },
        );
        y += HEADING_SPACE;
      }
      for (const [i, [left, right]] of captions.slice(first, first + columns).entries()) {
        const x = MARGIN + i * (column + GAP);
        cells.push({ section, picture: first + i, x, y, width, height });
        const line = { y: y + height + CAPTION + 2, size: CAPTION };
        texts.push({ ...line, x, text: left, tone: 'strong', end: 'left' });
        // The second goes where both would run into each other.
        if ((left.length + right.length + 2) * CAPTION * ADVANCE <= width) texts.push({ ...line, x: x + width, text: right, tone: 'soft', end: 'right' });
      }
      y += row;
    }
    y += GAP;
  }
  const height = paged ? PAGE_HEIGHT : y + MARGIN - GAP;
  if (height > HIGHEST)
    throw new ContactSheetError('sheet', 'One picture of all of these would be too high.', 'Choose more columns, fewer pictures, or a PDF.');
  return pages.map(({ texts, cells }, i) => ({
    ...{ width: PAGE_WIDTH, height, cells },
    texts: paged ? [...texts, footer(`${i + 1} of ${pages.length}`)] : texts,
  }));
}

const footer = (text: string): SheetText => ({ x: PAGE_WIDTH - MARGIN, y: PAGE_HEIGHT - MARGIN, size: CAPTION, text, tone: 'soft', end: 'right' });

/** A text that is no wider than its place. */
function cut(text: string, size: number, width: number): string {
  const most = Math.floor(width / (size * ADVANCE));
  return text.length <= most ? text : `${text.slice(0, Math.max(0, most - 1))}…`;
}
