import { histogramOf, lookUpColour, SeenByTable, waveformOf, type Look, type LookupTable, type SentPicture } from '@mint-tally/core';

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
  // The lookup table mixes channels: it comes after what each channel becomes by itself.
  const byChannel = { ...look, table: null };
  const key = JSON.stringify(byChannel);
  if (table?.key !== key) table = { key, table: new SeenByTable(byChannel) };
  const seen = new Uint8ClampedArray(picture.info.width * picture.info.height * 4);
  table.table.see(picture, alpha, seen);
  if (look.table) lookUpAll(seen, look.table);
  const scopes: Scopes = { histogram: histogramOf(seen), waveform: waveformOf(seen, picture.info.width, columns) };
  postMessage(scopes);
});

/** Applies a lookup table to what is seen, pixel by pixel. */
function lookUpAll(seen: Uint8ClampedArray, lookup: LookupTable): void {
  for (let i = 0; i < seen.length; i += 4) {
    const [r, g, b] = lookUpColour(lookup, [seen[i]! / 255, seen[i + 1]! / 255, seen[i + 2]! / 255]);
    seen[i] = r * 255;
    seen[i + 1] = g * 255;
    seen[i + 2] = b * 255;
  }
}
