import { tilesAcross } from '@mint-tally/core';
import { heatColour, type FrameTiles } from './tiles';

/** The side of a tile, in pixels of the picture. */
const TILE = 16;

/** A small picture of the noise, a pixel for each tile, as an address; and the pixels of the frame that it covers, whole tiles. */
export interface HeatPictured {
  readonly address: string;
  readonly width: number;
  readonly height: number;
}

/** Paints the noise of a frame's tiles; null where the browser cannot. */
export function heatOf({ width, height, sigmas }: FrameTiles, reference: number): HeatPictured | null {
  const canvas = document.createElement('canvas');
  canvas.width = tilesAcross(width);
  canvas.height = tilesAcross(height);
  const context = canvas.getContext('2d');
  if (!context) return null;
  const image = context.createImageData(canvas.width, canvas.height);
  sigmas.forEach((sigma, tile) => {
    if (sigma !== null) image.data.set(heatColour(sigma / reference), tile * 4);
  });
  context.putImageData(image, 0, 0);
  return { address: canvas.toDataURL(), width: canvas.width * TILE, height: canvas.height * TILE };
}
