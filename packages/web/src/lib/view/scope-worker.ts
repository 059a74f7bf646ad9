import { histogramOf, SeenByTable, waveformOf, type Look, type SentPicture } from '@mint-tally/core';

/** A picture as it is seen, and how wide its waveform is to be. */
export interface ScopeTask {
  readonly picture: SentPicture;
  readonly look: Look;
  readonly alpha: { readonly hasAlpha: boolean; readonly straight: boolean; readonly behind: readonly [number, number, number] | null };
  readonly columns: number;
}
export interface Scopes {
  readonly histogram: Uint32Array;
  readonly waveform: Uint32Array;
}

let table: { key: string; table: SeenByTable } | null = null;

addEventListener('message', ({ data }: MessageEvent<ScopeTask>) => {
  const { picture, look, alpha, columns } = data;
  const key = JSON.stringify(look);
  if (table?.key !== key) table = { key, table: new SeenByTable(look) };
  const seen = new Uint8ClampedArray(picture.info.width * picture.info.height * 4);
  table.table.see(picture, alpha, seen);
  const scopes: Scopes = { histogram: histogramOf(seen), waveform: waveformOf(seen, picture.info.width, columns) };
  postMessage(scopes);
});
