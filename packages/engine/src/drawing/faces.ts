import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import opentype, { type Font, type Path } from 'opentype.js';

/** The application's own faces, which come with it: a machine may have no fonts, or none that is wanted. */
const FILES = {
  figures: '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-500-normal.woff',
  text: '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff',
  bold: '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff',
} as const;
export type Face = keyof typeof FILES;

/** A face's file, as it is embedded (WOFF). */
export const faceFile = (face: Face): Buffer => readFileSync(createRequire(import.meta.url).resolve(FILES[face]));

let loaded: Font | null = null;

/** The face of figures, for drawing outlines. */
export function figuresFace(): Font {
  if (loaded) return loaded;
  const bytes = faceFile('figures');
  return (loaded = opentype.parse(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length)));
}

/** A glyph's outline as SVG writes it. The package's own writing of it makes some numbers “NaN”. */
export function outline({ commands }: Path): string {
  return commands
    .map((command) => {
      const numbers = [
        ...('x1' in command ? [command.x1, command.y1] : []),
        ...('x2' in command ? [command.x2, command.y2] : []),
        ...('x' in command ? [command.x, command.y] : []),
      ];
      return `${command.type}${numbers.map((value) => value.toFixed(2)).join(' ')}`;
    })
    .join('');
}
