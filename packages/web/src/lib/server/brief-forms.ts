import { briefSchema, fieldMessages, type Brief } from '@mint-tally/core';
import * as z from 'zod';

/** What a brief form sends. */
const formSchema = z.object({ brief: z.string().max(5_000_000), note: z.string().trim().max(500, 'A note has at most 500 characters.').default('') });

/** A form that was read: its brief, or what is wrong by field. */
export type BriefFormResult =
  { readonly ok: true; readonly brief: Brief; readonly note: string } | { readonly ok: false; readonly fields: Record<string, string> };

/** Parses a brief form. */
export function readBriefForm(form: FormData): BriefFormResult {
  const outer = formSchema.safeParse(Object.fromEntries(form));
  if (!outer.success) return { ok: false, fields: fieldMessages(outer.error) };
  let value: unknown;
  try {
    value = JSON.parse(outer.data.brief);
  } catch {
    return { ok: false, fields: { '': 'The form was not sent whole. Reload the page.' } };
  }
  const parsed = briefSchema.safeParse(value);
  return parsed.success ? { ok: true, brief: parsed.data, note: outer.data.note } : { ok: false, fields: fieldMessages(parsed.error) };
}
