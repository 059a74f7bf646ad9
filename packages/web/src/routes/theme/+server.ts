import * as z from 'zod';
import { json } from '@sveltejs/kit';
import { answered } from '$lib/server/errors';
import type { RequestHandler } from './$types';

/** Remembers the theme for the next page that is sent. */
export const POST: RequestHandler = ({ request, cookies }) =>
  answered(async () => {
    const { theme } = z.object({ theme: z.enum(['dark', 'light']) }).parse(await request.json().catch(() => null));
    cookies.set('theme', theme, { path: '/', maxAge: 365 * 24 * 3600, secure: false });
    return json({});
  });
