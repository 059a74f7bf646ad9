import * as z from 'zod';

/** How our routes refuse: what is the matter, what can be done, and which fields it is about. */
const refusalSchema = z.object({
  message: z.string(),
  remedy: z.string().default(''),
  fields: z.record(z.string(), z.string()).default({}),
});

/** What came of a question: what the server gave, or why not, in words for people. */
export type Answer =
  { readonly ok: true; readonly value: unknown } | { readonly ok: false; readonly refused: string; readonly fields: Readonly<Record<string, string>> };

const refused = (why: string): Answer => ({ ok: false, refused: why, fields: {} });

/**
 * Asks one of our own routes, with JSON both ways. It never throws: a server that is away, or answers what nobody
 * understands, is told as such.
 *
 * @param body what is sent; null when the address says it all
 */
export async function askServer(address: string, method: 'GET' | 'POST' | 'PUT' | 'DELETE', body: object | null = null): Promise<Answer> {
  let response: Response;
  try {
    response = await fetch(address, {
      method,
      ...(body === null ? {} : { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
    });
  } catch {
    return refused('The server does not answer. Look whether anything has changed before you ask again.');
  }
  let value: unknown;
  try {
    value = await response.json();
  } catch {
    return refused(`The server answered with status ${response.status} and nothing that can be read. Its log says more.`);
  }
  if (response.ok) return { ok: true, value };
  const told = refusalSchema.safeParse(value);
  if (!told.success) return refused(`The server refused with status ${response.status} and did not say why. Its log says more.`);
  return { ok: false, refused: `${told.data.message} ${told.data.remedy}`.trim(), fields: told.data.fields };
}
