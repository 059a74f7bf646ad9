import { json, type RequestHandler } from '@sveltejs/kit';
import * as z from 'zod';
import type { Operation } from '$lib/api/operation';
import { answered } from './errors';

/** What an operation was asked, parsed by its schemas. */
export interface Asked<Query, Body> {
  /** The numbers in the address. */
  readonly shot: number;
  readonly id: number;
  readonly query: Query;
  readonly body: Body;
}

const numberSchema = z.coerce.number().int().positive();

/** A request that its operation's schemas do not take, told field by field. */
function refuse(thrown: z.ZodError): Response {
  const problems = thrown.issues.map(({ path, message }) => ({ field: path.join('.'), message }));
  const [first] = problems;
  const where = first && first.field !== '' ? `${first.field}: ` : '';
  return json(
    { message: `The request cannot be followed. ${where}${first?.message ?? ''}`, remedy: 'The page /api says what is taken.', problems },
    { status: 400 },
  );
}

/** A route that does what an operation says: it parses what is asked and what is given back by the operation's own schemas. */
export function serve<Query extends z.ZodType, Body extends z.ZodType, Answer extends z.ZodType>(
  operation: Operation<Query, Body, Answer>,
  work: (asked: Asked<z.output<Query>, z.output<Body>>) => Promise<z.input<Answer> | Response>,
): RequestHandler {
  return ({ params, url, request }) =>
    answered(async () => {
      const { shot = '1', ...others } = params;
      const [id = '1'] = Object.values(others);
      const numbers = z.object({ shot: numberSchema, id: numberSchema }).safeParse({ shot, id });
      if (!numbers.success) return json({ message: 'There is no such thing.', remedy: 'A number stands in the address.' }, { status: 404 });
      const query = operation.query?.safeParse(Object.fromEntries(url.searchParams));
      if (query && !query.success) return refuse(query.error);
      const body = operation.body?.safeParse(await request.json().catch(() => null));
      if (body && !body.success) return refuse(body.error);
      const given = await work({ ...numbers.data, query: query?.data as z.output<Query>, body: body?.data as z.output<Body> });
      if (given instanceof Response) return given;
      const answer = operation.answer!.safeParse(given);
      // Ours to answer for: not a fault of the request.
      if (!answer.success) throw new Error(`The answer of ${operation.method} ${operation.path} is not what is described: ${answer.error.message}`);
      return json(answer.data, { status: operation.status ?? 200 });
    });
}
