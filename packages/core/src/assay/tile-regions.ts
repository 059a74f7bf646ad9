import { tilesAcross, type KeptTiles } from './kept-tiles.ts';
import { TILE } from './pair-noise.ts';

/** Pixels of a picture: left, top, width, height. */
export type Rectangle = readonly [left: number, top: number, width: number, height: number];

/** Places of the tiles whose middle lies in a rectangle; of one that is smaller than a tile, of the tile that its middle lies in. */
export function tilesIn([left, top, width, height]: Rectangle, picture: { readonly width: number; readonly height: number }): number[] {
  const [across, down] = [tilesAcross(picture.width), tilesAcross(picture.height)];
  const inside = (from: number, size: number, count: number) => {
    const first = Math.max(0, Math.ceil(from / TILE - 0.5));
    const end = Math.min(count, Math.ceil((from + size) / TILE - 0.5));
    if (end > first) return [first, end] as const;
    const one = Math.min(count - 1, Math.max(0, Math.floor((from + size / 2) / TILE)));
    return [one, one + 1] as const;
  };
  const [firstColumn, endColumn] = inside(left, width, across);
  const [firstRow, endRow] = inside(top, height, down);
  const tiles: number[] = [];
  for (let row = firstRow; row < endRow; row++) for (let column = firstColumn; column < endColumn; column++) tiles.push(row * across + column);
  return tiles;
}

/** What a region of a frame comes to; null where nothing in it is measured. */
export interface RegionFigures {
  readonly noise: number | null;
  readonly relativeNoise: number | null;
  readonly temporalNoise: number | null;
  readonly meanLuminance: number | null;
  /** Null where their places were not kept. */
  readonly fireflies: number | null;
}

/** The figures of a frame in a rectangle. @param before the frame before of the same pass, for the noise in time */
export function figuresIn(frame: KeptTiles, before: KeptTiles | null, rectangle: Rectangle): RegionFigures {
  const tiles = tilesIn(rectangle, frame);
  const root = (square: (tile: number) => number) => {
    const told = tiles.map(square).filter(Number.isFinite);
    return told.length === 0 ? null : Math.sqrt(told.reduce((sum, value) => sum + value, 0) / told.length);
  };
  const light = tiles.map((tile) => frame.means[tile]!).filter(Number.isFinite);
  const isSameSize = before !== null && before.sigmas.length === frame.sigmas.length;
  return {
    noise: root((tile) => frame.sigmas[tile]! ** 2),
    relativeNoise: root((tile) => (frame.sigmas[tile]! / (frame.means[tile]! + 0.01)) ** 2),
    temporalNoise: isSameSize ? root((tile) => (frame.sigmas[tile]! ** 2 + before.sigmas[tile]! ** 2) / 2) : null,
    meanLuminance: light.length === 0 ? null : light.reduce((sum, value) => sum + value, 0) / light.length,
    fireflies: frame.fireflies && frame.fireflies.reduce((count, place) => count + (isIn(rectangle, place, frame) ? 1 : 0), 0),
  };
}

/** Whether a pixel lies in a rectangle. @param place of the pixel, from the upper left corner */
function isIn([left, top, width, height]: Rectangle, place: number, picture: KeptTiles): boolean {
  const [x, y] = [place % picture.width, Math.floor(place / picture.width)];
  return x >= left && x < left + width && y >= top && y < top + height;
}

/** A part of a picture that is noisier than the rest. */
export interface NoisyRegion {
  readonly place: Rectangle;
  readonly noise: number;
}

/** So many times the typical tile is noisy, and so many regions are named. */
const NOISY = 2;
const MOST_REGIONS = 3;

/** The regions of touching tiles that bring the most noise into a frame, the worst first: tiles above the frame's own figure. */
export function worstRegions({ width, height, sigmas }: Pick<KeptTiles, 'width' | 'height' | 'sigmas'>): NoisyRegion[] {
  const across = tilesAcross(width);
  const sorted = Float64Array.from(sigmas.filter(Number.isFinite)).sort();
  const wholeFrame = Math.sqrt(sorted.reduce((sum, sigma) => sum + sigma ** 2, 0) / sorted.length);
  const least = Math.max(wholeFrame, NOISY * (sorted[sorted.length >> 1] ?? Infinity));
  const found = touchingTiles(sigmas.length, across, (tile) => sigmas[tile]! > least).map((members) => {
    const sum = members.reduce((all, tile) => all + sigmas[tile]! ** 2, 0);
    return { place: aroundTiles(members, { width, height }), noise: Math.sqrt(sum / members.length), sum };
  });
  return found
    .sort((a, b) => b.sum - a.sum)
    .slice(0, MOST_REGIONS)
    .map(({ place, noise }) => ({ place, noise }));
}

/** Tiles that are meant, in groups of those that touch each other by a side. @param across tiles in a row */
export function touchingTiles(count: number, across: number, isMeant: (tile: number) => boolean): number[][] {
  const seen = new Set<number>();
  const groups: number[][] = [];
  for (let start = 0; start < count; start++) {
    if (seen.has(start) || !isMeant(start)) continue;
    const members = [start];
    seen.add(start);
    for (const tile of members) {
      const column = tile % across;
      for (const next of [tile - across, tile + across, ...(column > 0 ? [tile - 1] : []), ...(column < across - 1 ? [tile + 1] : [])]) {
        if (next < 0 || next >= count || seen.has(next) || !isMeant(next)) continue;
        seen.add(next);
        members.push(next);
      }
    }
    groups.push(members);
  }
  return groups;
}

/** The smallest rectangle of a picture around some of its tiles. */
export function aroundTiles(tiles: readonly number[], { width, height }: { readonly width: number; readonly height: number }): Rectangle {
  const across = tilesAcross(width);
  const [columns, rows] = [tiles.map((tile) => tile % across), tiles.map((tile) => Math.floor(tile / across))];
  const [left, top] = [Math.min(...columns) * TILE, Math.min(...rows) * TILE];
  return [left, top, Math.min(width, (Math.max(...columns) + 1) * TILE) - left, Math.min(height, (Math.max(...rows) + 1) * TILE) - top];
}

/** Where a rectangle lies in a picture, in words: thirds across and down. */
export function sayPlace([left, top, width, height]: Rectangle, picture: { readonly width: number; readonly height: number }): string {
  const third = (middle: number, names: readonly [string, string, string]) => names[Math.min(2, Math.floor(middle * 3))]!;
  const down = third((top + height / 2) / picture.height, ['upper', 'middle', 'lower']);
  const across = third((left + width / 2) / picture.width, ['left', 'middle', 'right']);
  return down === 'middle' && across === 'middle' ? 'middle' : down === 'middle' ? across : `${down} ${across}`;
}
