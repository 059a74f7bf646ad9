import type { Handle, HandleServerError } from '@sveltejs/kit';
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

export const handle: Handle = ({ event, resolve }) => {
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
