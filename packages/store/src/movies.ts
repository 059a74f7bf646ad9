import * as z from 'zod';
import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** What a movie was found to be when it was read back. */
export const madeMovieSchema = z.object({
  frames: z.number(),
  fps: z.string(),
  seconds: z.number(),
  slates: z.string(),
  bytes: z.number(),
  width: z.number(),
  height: z.number(),
  foretold: z.number().nullable(),
  differences: z.array(z.number()),
});
export type SavedMade = z.output<typeof madeMovieSchema>;

/** A movie that was written. */
export interface SavedMovie {
  readonly id: number;
  readonly root: string;
  /** Below the root. */
  readonly file: string;
  readonly pass: string;
  readonly made: SavedMade;
  readonly createdAt: Date;
  readonly actor: string;
}

export async function noteMovie(
  inside: Transaction,
  shotId: number,
  movie: Pick<SavedMovie, 'root' | 'file' | 'pass' | 'made'> & { readonly wish: unknown },
  actor: string,
): Promise<void> {
  await inside.change('INSERT INTO movies (shot_id, root, file, pass, wish, made, created_at, actor) VALUES (?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    ...[shotId, movie.root, movie.file, movie.pass, JSON.stringify(movie.wish), JSON.stringify(movie.made)],
    actor,
  ]);
  await touchShot(inside, shotId);
}

/** Movies of a shot, newest first. */
export async function listMovies(on: Queryable, shotId: number, most = 100): Promise<SavedMovie[]> {
  const rows = await on.rows('SELECT id, root, file, pass, made, created_at, actor FROM movies WHERE shot_id = ? ORDER BY id DESC LIMIT ?', [shotId, most]);
  return rows.map((row) => ({
    ...{ id: row.id as number, root: row.root as string, file: row.file as string, pass: row.pass as string },
    made: readStored(`Movie ${String(row.id)}`, () => madeMovieSchema.parse(JSON.parse(row.made as string))),
    ...{ createdAt: row.created_at as Date, actor: row.actor as string },
  }));
}
