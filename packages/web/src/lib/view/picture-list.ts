import * as z from 'zod';

/** The files that a pass shows, frame by frame in rising order: the one that is looked at where several claim a frame. */
export const pictureListSchema = z.object({
  frames: z.array(z.number().int()),
  paths: z.array(z.string()),
  sizes: z.array(z.number()),
  modified: z.array(z.number()),
  /** What names each file's content; empty where it is not known. */
  contents: z.array(z.string()),
});
export type PictureList = z.output<typeof pictureListSchema>;

/** A list as it was had. */
export interface ListHad extends PictureList {
  /** The address that it was had from. */
  readonly from: string;
}
export const NO_PICTURES: ListHad = { from: '', frames: [], paths: [], sizes: [], modified: [], contents: [] };

/** Which part of the pictures is fetched. */
export interface PictureChoice {
  /** Exactly these channels; null for what the pass shows by itself. */
  readonly only: readonly string[] | null;
  /** Every so many pixels across and down become one. */
  readonly reduce: number;
  /** Left, top, width and height in the data window; null for all of it. */
  readonly region: readonly [number, number, number, number] | null;
  /** Another folder inside the roots than the shot's own; null for that. */
  readonly elsewhere: { readonly root: string; readonly folder: string } | null;
}

/** Where the picture of one entry of the list is to be had. It names the file as it was counted, so another one never stands for it. */
export function pictureAddress(shotId: number, pass: string, list: PictureList, entry: number, { only, reduce, region, elsewhere }: PictureChoice): string {
  const query = new URLSearchParams({ pass, path: list.paths[entry]!, size: String(list.sizes[entry]), modified: String(list.modified[entry]) });
  if (only) for (const channel of only) query.append('only', channel);
  if (reduce > 1) query.set('reduce', String(reduce));
  if (region) query.set('region', region.join(','));
  if (elsewhere) {
    query.set('root', elsewhere.root);
    query.set('folder', elsewhere.folder);
  }
  return `/shots/${shotId}/picture?${query.toString()}`;
}
