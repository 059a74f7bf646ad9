import { MintError } from '@mint-tally/core';
import { error, json } from '@sveltejs/kit';
import * as z from 'zod';

/** HTTP status of our own errors; anything else that was asked wrongly is 400. */
function statusOf(thrown: MintError): number {
  if (thrown.code === 'not-found' || thrown.code === 'unknown-root') return 404;
  if (thrown.code === 'outside-root' || thrown.code === 'not-readable' || thrown.code === 'not-writable') return 403;
  if (thrown.code === 'shot-name-taken') return 409;
  if (thrown.code === 'store') return 503;
  return 400;
}

/** Runs a page's or an action's work; our own errors become the error page with their words. */
export async function told<Result>(work: () => Promise<Result>): Promise<Result> {
  try {
    return await work();
  } catch (thrown) {
    if (thrown instanceof MintError) error(statusOf(thrown), { message: thrown.message, remedy: thrown.remedy });
    throw thrown;
  }
}

/** Runs a data route's work; our own errors become JSON with message and remedy. */
export async function answered(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (thrown) {
    if (thrown instanceof MintError) return json({ message: thrown.message, remedy: thrown.remedy }, { status: statusOf(thrown) });
    if (thrown instanceof z.ZodError) return json({ message: 'The request is not one that this route understands.', remedy: '' }, { status: 400 });
    throw thrown;
  }
}

/** A shot's number as it stands in an address. */
export function shotNumber(text: string): number {
  const parsed = z.coerce.number().int().positive().safeParse(text);
  if (!parsed.success) error(404, { message: 'There is no such shot.', remedy: 'Choose one from the list of shots.' });
  return parsed.data;
}
