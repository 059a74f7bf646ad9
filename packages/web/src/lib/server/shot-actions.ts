import { findingCodes, givenUpBy, isFindingCode, waiverSubjectSchema, type WaiverSubject } from '@mint-tally/core';
import { addWaiver, newestFindings, withdrawWaiver } from '@mint-tally/store';
import { fail, type RequestEvent } from '@sveltejs/kit';
import * as z from 'zod';
import { shotNumber, told } from './errors';
import { actor, services } from './services';

/** A form's hidden field that holds JSON. */
const jsonField = <Schema extends z.ZodType>(schema: Schema, message: string) =>
  z.string().transform((text, context): z.output<Schema> => {
    try {
      return schema.parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: 'custom', message });
      return z.NEVER;
    }
  });

const waiveSchema = z.object({
  subjects: jsonField(z.array(waiverSubjectSchema).min(1).max(1000), 'It is not clear what is waived. Reload the page.'),
  person: z.string().trim().min(1, 'A name is needed: somebody answers for it.').max(200, 'A name has at most 200 characters.'),
  reason: z.string().trim().min(3, 'A reason is needed: the other side will read it.').max(2000, 'A reason has at most 2,000 characters.'),
  /** What the person was told is given up; it is saved when that is just what is given up now. */
  givenUp: jsonField(z.array(z.string()).max(1000), 'Reload the page.').default([]),
});

/** What waiving these gives up, in words. */
async function givenUpNow(shotId: number, subjects: readonly WaiverSubject[]): Promise<string[]> {
  const findings = (await newestFindings(services().database, shotId)) ?? [];
  return subjects.flatMap((subject) => {
    if (subject.kind !== 'finding' || !isFindingCode(subject.code)) return [];
    const { code, pass, detail } = subject;
    const stands = findings.find((finding) => finding.code === code && finding.pass === pass && finding.detail === detail);
    return givenUpBy(subject, (stands?.severity ?? findingCodes[subject.code].severity) === 'blocker') ?? [];
  });
}

/** What a person waives, and with which word. */
interface Waiving {
  readonly subjects: readonly WaiverSubject[];
  readonly person: string;
  readonly reason: string;
  /** What the person was told is given up. */
  readonly givenUp: readonly string[];
}

/**
 * Notes that a named person waives findings or gates. What gives up frames is asked about once more, in words.
 *
 * @returns what would be given up and was not agreed to; null when it was saved
 */
export async function waive(shotId: number, { subjects, person, reason, givenUp: agreed }: Waiving): Promise<string[] | null> {
  const givenUp = await givenUpNow(shotId, subjects);
  if (givenUp.length > 0 && JSON.stringify(givenUp) !== JSON.stringify(agreed)) return givenUp;
  await services().database.transaction(async (inside) => {
    for (const subject of subjects) await addWaiver(inside, shotId, { subject, person, reason }, actor);
  });
  return null;
}

async function waiveAction(shotId: number, form: FormData) {
  const parsed = waiveSchema.safeParse(Object.fromEntries(form));
  if (!parsed.success) return fail(400, { fields: Object.fromEntries(parsed.error.issues.map((issue) => [String(issue.path[0]), issue.message])) });
  const givenUp = await waive(shotId, parsed.data);
  if (givenUp !== null) return fail(409, { givenUp });
  return { waived: true };
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
  waive: async ({ params, request }: ShotRequest) => {
    const form = await request.formData();
    return told(() => waiveAction(shotNumber(params.shot), form));
  },
  withdraw: async ({ params, request }: ShotRequest) => {
    const form = await request.formData();
    return told(() => withdrawAction(shotNumber(params.shot), form));
  },
};

type ShotRequest = Pick<RequestEvent<{ shot: string }>, 'params' | 'request'>;
