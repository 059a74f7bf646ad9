import type { IncomingMessage, ServerResponse } from 'node:http';

/** More than this nobody may send: a batch of a million frames fits in. */
export const LARGEST_BODY = 64_000_000;

/** What every answer says, pages, data and files alike. */
const HEADERS: Readonly<Record<string, string>> = {
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'same-origin',
  // Nobody else's page may show ours inside of it, take pictures from here, or hold on to a window of ours.
  'X-Frame-Options': 'DENY',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'Cross-Origin-Opener-Policy': 'same-origin',
};

/** Why a request is turned away. */
interface Refusal {
  readonly status: number;
  readonly message: string;
  readonly remedy: string;
}

/**
 * Decides over a request before anything else sees it, static files included. Only pages that came from
 * this server are answered: a request under another host name (a name that somebody points at loopback),
 * or one that another page has the browser send, is turned away.
 *
 * @param origin such as `http://127.0.0.1:4680`
 * @returns false when the request was answered here
 */
export function admit(request: IncomingMessage, response: ServerResponse, origin: string): boolean {
  for (const [name, value] of Object.entries(HEADERS)) response.setHeader(name, value);
  const { host } = new URL(origin);
  const asked = request.headers.host;
  if (asked !== host && request.method === 'GET' && asked !== undefined && /^localhost(:\d+)?$/.test(asked)) {
    response.writeHead(307, { Location: origin + (request.url ?? '/') }).end();
    return false;
  }
  const refusal =
    asked !== host
      ? { status: 403, message: `This server answers as ${host} only.`, remedy: `Open ${origin}.` }
      : (refuseForeign(request, origin) ?? refuseLarge(request));
  if (refusal === null) return true;
  // What is still on its way is taken and thrown away, so that whoever sends it gets to read the answer.
  request.resume();
  refuse(response, refusal);
  return false;
}

function refuseForeign(request: IncomingMessage, origin: string): Refusal | null {
  const { origin: from, 'sec-fetch-site': site, 'sec-fetch-mode': mode, 'sec-fetch-dest': destination } = request.headers;
  const changes = request.method !== 'GET' && request.method !== 'HEAD';
  // A person may follow a link that stands elsewhere; nothing else may come from there (Fetch Metadata Request Headers, W3C).
  const isForeign = site !== undefined && site !== 'same-origin' && site !== 'none';
  const isVisit = !changes && mode === 'navigate' && destination === 'document';
  if ((isForeign && !isVisit) || (changes && from !== undefined && from !== origin)) {
    return { status: 403, message: 'The request came from another page.', remedy: `Open ${origin}.` };
  }
  return null;
}

function refuseLarge(request: IncomingMessage): Refusal | null {
  const size = Number(request.headers['content-length'] ?? 0);
  if (size <= LARGEST_BODY) return null;
  const megabytes = (bytes: number) => `${Math.ceil(bytes / 1e6)} MB`;
  return {
    status: 413,
    message: `What was sent is too large: ${megabytes(size)}, and at most ${megabytes(LARGEST_BODY)} are taken.`,
    remedy: 'Send it in parts: fewer frames, or fewer shots, at a time.',
  };
}

function refuse(response: ServerResponse, { status, message, remedy }: Refusal): void {
  response.writeHead(status, { 'Content-Type': 'application/json; charset=utf-8' }).end(JSON.stringify({ message, remedy }));
}
