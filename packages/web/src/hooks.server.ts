import type { Handle, HandleServerError } from '@sveltejs/kit';
import { describeError, MintError } from '@mint-tally/core';
import { building } from '$app/environment';
import { closeServices } from '$lib/server/services';

export const handle: Handle = ({ event, resolve }) => {
  event.locals.theme = event.cookies.get('theme') === 'light' ? 'light' : 'dark';
  return resolve(event, { transformPageChunk: ({ html }) => (html.startsWith('<!doctype') ? html.replace('%theme%', event.locals.theme) : html) });
};

export const handleError: HandleServerError = ({ error: thrown, status }) => {
  if (status === 404) return { message: 'There is nothing at this address.', remedy: 'Go back to the shots.' };
  if (thrown instanceof MintError) return { message: thrown.message, remedy: thrown.remedy };
  console.error(thrown instanceof Error ? thrown.stack : describeError(thrown));
  return { message: 'Something unexpected happened.', remedy: 'The server’s messages say more; try again.' };
};

if (!building) process.on('sveltekit:shutdown', () => void closeServices());
