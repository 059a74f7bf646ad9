import type { KeptAssay, KeptFrame } from './assayed-frame.ts';

const BY: Readonly<Record<KeptFrame['by'], string>> = {
  halves: 'by halves, exact',
  neighbours: 'by neighbours in time',
  features: 'by one frame, an upper bound',
  picture: 'by the picture alone, an upper bound',
};

/** How the noise of a pass was measured, for most of its frames: as the one in their middle was. */
export const sayMeasured = (frames: readonly Pick<KeptFrame, 'by'>[]): string => BY[frames[Math.floor(frames.length / 2)]!.by];

/** What whoever reads the figures of a shot has to know of them, in sentences. */
export function sayOfFigures({ heldSeeds, wideFilter, vectors }: Pick<KeptAssay, 'heldSeeds' | 'wideFilter' | 'vectors'>): string {
  return [
    heldSeeds ? 'Seeds are held from frame to frame: the noise stands still, and is less sure.' : [],
    wideFilter ? 'The pixel filter joins neighbouring pixels, which is allowed for.' : [],
    vectors ? `Motion vectors ${sayTaken(vectors)} ${vectors.says}.` : 'Without motion vectors noise in time is that of what stands still.',
  ]
    .flat()
    .join(' ');
}

/** How it is known what vectors mean. */
const sayTaken = ({ residual, isSaid }: NonNullable<KeptAssay['vectors']>) =>
  isSaid ? 'are, as the brief says,' : residual === null ? 'are taken to be' : 'are';
