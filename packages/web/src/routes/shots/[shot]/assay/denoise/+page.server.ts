import { denoiseRequestSchema, frameCounts, MintError, type FrameCount } from '@mint-tally/core';
import { requestJob } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import * as z from 'zod';
import { beginDenoising, pauseDenoising, readDenoising, resumeDenoising, stopDenoising } from '$lib/server/denoising';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = ({ params }) => told(async () => ({ denoising: await readDenoising(shotNumber(params.shot)) }));

const { shape } = denoiseRequestSchema;
const wishSchema = z.object({
  purpose: shape.purpose,
  pass: shape.pass,
  strengths: z.preprocess((text) => String(text).split(' ').map(Number), shape.strengths),
  frames: z.preprocess((text) => Number(text), shape.frames),
  range: shape.range,
  withLights: z.preprocess((text) => text === 'yes', z.boolean()),
  region: z.preprocess((text) => (text === '' || text === undefined ? null : String(text).split(' ').map(Number)), shape.region),
});

const runSchema = z.coerce.number().int().positive();

/** Runs what a form asks for; what cannot be is told where it was asked. */
async function asked(work: () => Promise<void>) {
  try {
    await work();
    return { asked: true };
  } catch (thrown) {
    if (thrown instanceof MintError) return fail(400, { refused: thrown.message, remedy: thrown.remedy });
    throw thrown;
  }
}

export const actions: Actions = {
  begin: async ({ params, request }) => {
    const wish = wishSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!wish.success) return fail(400, { refused: `This cannot be asked for: ${wish.error.issues[0]!.message}`, remedy: '' });
    const frames = frameCounts.find((count) => count === wish.data.frames) as FrameCount;
    return asked(() => beginDenoising(shotNumber(params.shot), { ...wish.data, frames }));
  },
  pause: ({ params }) => asked(() => pauseDenoising(shotNumber(params.shot))),
  stop: async ({ params, request }) => {
    const run = runSchema.parse((await request.formData()).get('run'));
    return asked(() => stopDenoising(shotNumber(params.shot), run));
  },
  resume: async ({ params, request }) => {
    const run = runSchema.parse((await request.formData()).get('run'));
    return asked(() => resumeDenoising(shotNumber(params.shot), run));
  },
  /** Asks the engine to measure the frames that were counted. */
  measure: ({ params }) => asked(async () => void (await requestJob(services().database, shotNumber(params.shot), { kind: 'assay' }, actor))),
};
