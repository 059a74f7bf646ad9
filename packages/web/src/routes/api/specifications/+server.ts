import { fieldMessages, specificationSchema } from '@mint-tally/core';
import { listFollowers, removeSpecification, saveSpecification } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { actor, currentProject, services } from '$lib/server/services';
import type { RequestHandler } from './$types';

/** Saves what a receiver asks for, under its name. */
export const POST: RequestHandler = ({ request }) =>
  answered(async () => {
    const parsed = specificationSchema.safeParse(await request.json().catch(() => null));
    if (!parsed.success)
      return json(
        { message: 'The specification cannot be saved.', remedy: 'Look at the marked entries.', fields: fieldMessages(parsed.error) },
        { status: 400 },
      );
    await saveSpecification(services().database, (await currentProject()).id, parsed.data, actor);
    return json({});
  });

const nameSchema = z.object({ name: z.string().min(1).max(100) });
const nameOf = (url: URL) => nameSchema.parse(Object.fromEntries(url.searchParams)).name;

/** Which shots follow a specification. */
export const GET: RequestHandler = ({ url }) =>
  answered(async () => json({ followers: await listFollowers(services().database, (await currentProject()).id, nameOf(url)) }));

export const DELETE: RequestHandler = ({ url }) =>
  answered(async () => {
    await removeSpecification(services().database, (await currentProject()).id, nameOf(url));
    return json({});
  });
