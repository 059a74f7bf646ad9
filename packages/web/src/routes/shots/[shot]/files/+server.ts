import { isFindingCode, type FindingCode } from '@mint-tally/core';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { services } from '$lib/server/services';
import { listFindingFiles } from '@mint-tally/store';
import type { RequestHandler } from './$types';

const querySchema = z.object({
  code: z
    .string()
    .refine(isFindingCode)
    .transform((code) => code as FindingCode),
  pass: z.string().max(200).nullable().default(null),
  detail: z.string().max(10_000),
});

/** All files of a finding, a line each. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const key = querySchema.parse(Object.fromEntries(url.searchParams));
    const files = await listFindingFiles(services().database, shotNumber(params.shot), key);
    return new Response(files.join('\n'), { headers: { 'Content-Type': 'text/plain; charset=utf-8' } });
  });
