import sharp from 'sharp';
import { figuresFace, outline } from './faces.ts';

/** A text as it is laid over a picture: red, green, blue and alpha, four bytes a pixel. */
export interface LetterBox {
  readonly data: Buffer;
  readonly width: number;
  readonly height: number;
}

const MOST_KEPT = 200;
const kept = new Map<string, Promise<LetterBox>>();

/** How much of the dark ground behind the letters covers. */
const COVER = 0.6;
/** Of a letter's height: room around a line, and where its letters stand. */
const [PAD, BASELINE, DESCENT] = [0.35, 0.75, 0.22];

/** A line of text in white on a dark ground that lets the picture through. @param height of its capitals and what hangs below, in pixels */
export function letterBox(text: string, height: number): Promise<LetterBox> {
  const key = `${height} ${text}`;
  let box = kept.get(key);
  if (!box) {
    if (kept.size >= MOST_KEPT) kept.delete(kept.keys().next().value!);
    kept.set(key, (box = draw(text, height)));
  }
  return box;
}

async function draw(text: string, height: number): Promise<LetterBox> {
  const face = figuresFace();
  const width = Math.ceil(face.getAdvanceWidth(text, height) + 2 * PAD * height);
  const tall = Math.ceil((BASELINE + DESCENT + PAD) * height);
  const paths = face.getPaths(text, PAD * height, (BASELINE + PAD / 2) * height, height).map((glyph) => `<path d="${outline(glyph)}"/>`);
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${tall}"><rect width="100%" height="100%" fill-opacity="${COVER}"/><g fill="#fff">${paths.join('')}</g></svg>`;
  const { data, info } = await sharp(Buffer.from(svg)).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height };
}
