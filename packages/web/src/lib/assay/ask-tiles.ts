import { askServer, type Answer } from '$lib/asking/ask-server';
import { frameTilesSchema, type FrameTiles } from './tiles';

/** The noise of a frame's tiles, or why it is not known. */
export type AskedTiles = { readonly tiles: FrameTiles } | { readonly why: string };

/** Milliseconds that a playhead has to rest before its frame is asked for. */
const REST = 60;

/** Asks for the noise of a frame's tiles, unless another one is wanted in the meantime. @returns to want it no longer */
export function askTiles(shotId: number, pass: string, frame: number, onanswer: (answer: AskedTiles) => void): () => void {
  return askWhenAtRest(`/shots/${shotId}/assay/tiles?${new URLSearchParams({ pass, frame: String(frame) }).toString()}`, (answer) => {
    const tiles = answer.ok ? frameTilesSchema.nullable().parse(answer.value) : null;
    onanswer(tiles ? { tiles } : { why: answer.ok ? 'This frame was not measured.' : answer.refused });
  });
}

/** Asks for what belongs to a frame, unless another one is wanted in the meantime. @returns to want it no longer */
export function askWhenAtRest(address: string, onanswer: (answer: Answer) => void): () => void {
  let isWanted = true;
  const timer = setTimeout(async () => {
    const answer = await askServer(address, 'GET');
    if (isWanted) onanswer(answer);
  }, REST);
  return () => {
    isWanted = false;
    clearTimeout(timer);
  };
}
