import { error, redirect, type Handle, type HandleServerError } from '@sveltejs/kit';
import { describeError, MintError } from '@mint-tally/core';
import { building, dev } from '$app/environment';
import { closeServices } from '$lib/server/services';

/**
 * Only pages that came from this server may be answered: a request under another host name (a
 * name that somebody points at loopback) is sent to the right address or refused.
 */
function guardHost(request: Request, url: URL): void {
  if (dev || building) return;
  const host = request.headers.get('host');
  if (host === url.host) return;
  if (request.method === 'GET' && host !== null && /^localhost(:\d+)?$/.test(host)) redirect(307, url.href);
  error(403, { message: `This server answers as ${url.host} only.`, remedy: `Open ${url.origin}.` });
}

/** SvelteKit's own check covers forms; this one covers every other request that changes something. */
function guardOrigin(request: Request, url: URL): void {
  if (request.method === 'GET' || request.method === 'HEAD') return;
  const origin = request.headers.get('origin');
  if (origin !== null && origin !== url.origin) error(403, { message: 'The request came from another page.', remedy: `Open ${url.origin}.` });
}

export const handle: Handle = async ({ event, resolve }) => {
  guardHost(event.request, event.url);
  guardOrigin(event.request, event.url);
  event.locals.theme = event.cookies.get('theme') === 'light' ? 'light' : 'dark';
  const response = await resolve(event, { transformPageChunk: ({ html }) => html.replace('%theme%', event.locals.theme) });
  response.headers.set('X-Content-Type-Options', 'nosniff');
  response.headers.set('Referrer-Policy', 'same-origin');
  return response;
};

export const handleError: HandleServerError = ({ error: thrown, status }) => {
  if (status === 404) return { message: 'There is nothing at this address.', remedy: 'Go back to the shots.' };
  if (thrown instanceof MintError) return { message: thrown.message, remedy: thrown.remedy };
  console.error(thrown instanceof Error ? thrown.stack : describeError(thrown));
  return { message: 'Something unexpected happened.', remedy: 'The server’s messages say more; try again.' };
};

if (!building) process.on('sveltekit:shutdown', () => void closeServices());
