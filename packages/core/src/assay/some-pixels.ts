/** Pixels that are looked at side by side: those of one line of memory that a processor reads at once. */
const RUN = 16;

/** Of how many pixels one is looked at, where about `most` of a picture are enough. */
export const oneOf = (width: number, height: number, most: number): number => Math.max(1, Math.ceil((width * height) / most));

/** No more pixels than so many are looked at. */
export function roomForSome(width: number, height: number, most: number): number {
  const every = oneOf(width, height, most);
  return every === 1 ? width * height : Math.ceil(width / (every * RUN)) * RUN * height;
}

/**
 * Goes through about so many pixels of a picture, all over it: runs that begin at another place in each line, so that no
 * pattern of the picture falls between. Pixels one by one would take as long as all of them.
 *
 * @param visit gets the line, its first pixel's place in the picture, and the run's first column and the one behind its last
 */
export function alongSome(width: number, height: number, most: number, visit: (y: number, line: number, first: number, end: number) => void): void {
  const every = oneOf(width, height, most);
  if (every === 1) for (let y = 0; y < height; y++) visit(y, y * width, 0, width);
  else
    for (let y = 0; y < height; y++)
      for (let first = (y % every) * RUN; first < width; first += every * RUN) visit(y, y * width, first, Math.min(width, first + RUN));
}
