import { json, type Handle, type HandleServerError, type RequestEvent } from '@sveltejs/kit';
import { describeError, MintError } from '@mint-tally/core';
import pLimit from 'p-limit';
import { building } from '$app/environment';
import { closeServices } from '$lib/server/services';

/**
 * So many pages are made at a time; the others wait their turn. Making a page is work for one processor:
 * fifty that share it all end late, in turn each ends after its own time, and less lies in memory meanwhile.
 */
const PAGES_AT_A_TIME = 6;
const inTurn = pLimit(PAGES_AT_A_TIME);

const CHANGES: ReadonlySet<string> = new Set(['POST', 'PUT', 'PATCH', 'DELETE']);

/**
 * Whether a page of another site asks for something to be done, in the browser of somebody who sits here. The framework holds off
 * foreign forms alone; a request without a type of content needs no leave of ours either (Fetch, section 3.3.5).
 */
const isForeign = ({ request, url }: RequestEvent) => CHANGES.has(request.method) && (request.headers.get('origin') ?? url.origin) !== url.origin;

export const handle: Handle = async ({ event, resolve }) => {
  if (isForeign(event)) return json({ message: 'A page of another site may not ask for this.', remedy: '' }, { status: 403 });
  event.locals.theme = event.cookies.get('theme') === 'light' ? 'light' : 'dark';
  const make = async () =>
    resolve(event, { transformPageChunk: ({ html }) => (html.startsWith('<!doctype') ? html.replace('%theme%', event.locals.theme) : html) });
  const isPage = event.request.method === 'GET' && (event.isDataRequest || event.request.headers.get('accept')?.includes('text/html') === true);
  return isPage ? inTurn(make) : make();
};

export const handleError: HandleServerError = ({ error: thrown, status }) => {
  if (status === 404) return { message: 'There is nothing at this address.', remedy: 'Go back to the shots.' };
  if (thrown instanceof MintError) return { message: thrown.message, remedy: thrown.remedy };
  console.error(thrown instanceof Error ? thrown.stack : describeError(thrown));
  return { message: 'Something unexpected happened.', remedy: 'The server’s messages say more; try again.' };
};

if (!building) process.on('sveltekit:shutdown', () => void closeServices());
