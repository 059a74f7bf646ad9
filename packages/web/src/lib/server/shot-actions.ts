import { waiverSubjectSchema } from '@mint-tally/core';
import { addWaiver, withdrawWaiver } from '@mint-tally/store';
import { fail, type RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import { shotNumber, told } from './errors';
import { actor, services } from './services';

const acceptSchema = z.object({
  subjects: z.string().transform((text, context) => {
    try {
      return z.array(waiverSubjectSchema).min(1).max(1000).parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: 'custom', message: 'It is not clear what is accepted. Reload the page.' });
      return z.NEVER;
    }
  }),
  person: z.string().trim().min(1, 'A name is needed: somebody answers for it.').max(200),
  reason: z.string().trim().min(3, 'A reason is needed: the other side will read it.').max(2000),
});

/** Notes that a named person accepts findings or gates. */
async function acceptAction(shotId: number, form: FormData) {
  const parsed = acceptSchema.safeParse(Object.fromEntries(form));
  if (!parsed.success) return fail(400, { fields: Object.fromEntries(parsed.error.issues.map((issue) => [String(issue.path[0]), issue.message])) });
  const { subjects, person, reason } = parsed.data;
  await services().database.transaction(async (inside) => {
    for (const subject of subjects) await addWaiver(inside, shotId, { subject, person, reason }, actor);
  });
  return { accepted: true };
}

/** Takes waivers back. */
async function withdrawAction(shotId: number, form: FormData) {
  const ids = z.array(z.coerce.number().int().positive()).min(1).max(1000).safeParse(form.getAll('waiver'));
  if (!ids.success) return fail(400, { fields: { waiver: 'There is no such waiver.' } });
  await services().database.transaction(async (inside) => {
    for (const id of ids.data) await withdrawWaiver(inside, shotId, id, actor);
  });
  return { withdrawn: true };
}

/** The form actions that every screen with findings or gates offers. */
export const waiverActions = {
  accept: async ({ params, request }: ShotRequest) => {
    const form = await request.formData();
    return told(() => acceptAction(shotNumber(params.shot), form));
  },
  withdraw: async ({ params, request }: ShotRequest) => {
    const form = await request.formData();
    return told(() => withdrawAction(shotNumber(params.shot), form));
  },
};

type ShotRequest = Pick<RequestEvent<{ shot: string }>, 'params' | 'request'>;
