import { noteSchema } from '@mint-tally/core';
import { addNote, setNoteClosed } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { needBrief } from '$lib/server/frames';
import { actor, services } from '$lib/server/services';
import type { RequestHandler } from './$types';

const person = z.string().trim().min(1, 'A name is needed: others will want to ask.').max(200, 'A name has at most 200 characters.');
const writeSchema = noteSchema.extend({ person });
const closeSchema = z.object({ id: z.number().int().positive(), closed: z.boolean(), person: z.string().trim().max(200) });

/** Pins a note to frames. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    const parsed = writeSchema.safeParse(await request.json().catch(() => null));
    if (!parsed.success) {
      const fields = Object.fromEntries(parsed.error.issues.map((issue) => [String(issue.path[0] ?? ''), issue.message]));
      return json({ message: Object.values(fields)[0] ?? 'The note cannot be read.', remedy: '', fields }, { status: 400 });
    }
    const { person: author, ...note } = parsed.data;
    const shotId = shotNumber(params.shot);
    // A shot that is not there is told as such.
    await needBrief(shotId);
    const id = await services().database.transaction((inside) => addNote(inside, shotId, note, author, actor));
    return json({ id });
  });

/** Closes a note, or opens it again. */
export const PUT: RequestHandler = ({ params, request }) =>
  answered(async () => {
    const { id, closed, person: by } = closeSchema.parse(await request.json().catch(() => null));
    await services().database.transaction((inside) => setNoteClosed(inside, shotNumber(params.shot), id, closed, by || actor));
    return json({});
  });
