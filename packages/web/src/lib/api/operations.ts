import {
  briefSchema,
  denoiseRequestSchema,
  jobRequestSchema,
  mendWishSchema,
  keptAssaySchema,
  receiptSchema,
  reportSchema,
  waiverSubjectSchema,
} from '@mint-tally/core';
import * as z from 'zod';
import { batchViewSchema, controlRequestSchema, startRequestSchema } from '$lib/batch/batch-view';
import { rowPageSchema, rowQuerySchema } from '$lib/files/file-row';
import { mergeControlSchema } from './merge-control';
import { define, type Operation } from './operation';
import { denoisingSchema, jobSchema, madeSchema, mendPreviewSchema, mendsSchema, mergeSchema, shotInListSchema, shotSchema } from './shapes';

const SHOT = '/shots/{shot}';
const asked = z.object({ job: z.number().int().describe('Number of the job that does it') });
const person = z.string().trim().min(1, 'A name is needed: somebody answers for it.').max(200);

/** Jobs that can be asked for as they are: those that take a run or a batch with them are begun by their own operation, or in the application. */
const OWN_OPERATION: readonly string[] = ['render', 'denoise', 'merge'];
const { purpose, pass, strengths, frames, range, region } = denoiseRequestSchema.shape;
const withLights = z.boolean().default(false).describe('Of a range: whether the lights that the pass is put together from go along with it');
const run = z.number().int().positive();

const [first, ...others] = jobRequestSchema.options.filter(({ shape }) => !OWN_OPERATION.includes(shape.kind.value));
export const askedJobSchema = z.discriminatedUnion('kind', [first!, ...others]);

/** Everything that the API can be asked, in the order of the application's steps. */
export const operations = {
  listShots: define({
    method: 'get',
    path: '/shots',
    step: 'Shots',
    summary: 'The shots of the project',
    answer: z.object({ shots: z.array(shotInListSchema) }),
  }),
  createShot: define({
    ...{ method: 'post', path: '/shots', step: 'Shots', summary: 'Makes a shot of a folder and a brief, and has it counted', status: 201 },
    body: z.object({
      root: z.string().max(32).describe('Name of a root of mint-tally.config.json'),
      folder: z.string().max(2048).describe('Below the root'),
      brief: briefSchema,
      note: z.string().trim().max(500).default(''),
    }),
    answer: z.object({ id: z.number().int(), job: z.number().int() }),
  }),
  readShot: define({ method: 'get', path: SHOT, step: 'Shots', summary: 'A shot as it stands: counts, gates, findings', answer: shotSchema }),
  readBrief: define({ method: 'get', path: `${SHOT}/brief`, step: 'Brief', summary: 'The newest brief', answer: briefSchema }),
  writeBrief: define({
    ...{ method: 'put', path: `${SHOT}/brief`, step: 'Brief', summary: 'Saves a new version of the brief, and has the shot counted against it' },
    body: briefSchema,
    answer: z.object({ version: z.number().int(), job: z.number().int() }),
  }),
  readBatch: define({
    ...{ method: 'get', path: `${SHOT}/batch`, step: 'Batch', summary: 'The newest batch: frames, machines, time left; null where there was none' },
    answer: z.object({ batch: batchViewSchema.nullable(), left: z.string().describe('Frames that are left to render, in range notation') }),
  }),
  startBatch: define({
    ...{ method: 'post', path: `${SHOT}/batch`, step: 'Batch', summary: 'Begins a batch: who renders which frames of which passes', status: 201 },
    body: startRequestSchema,
    answer: z.object({ batch: z.number().int() }),
  }),
  controlBatch: define({
    ...{ method: 'put', path: `${SHOT}/batch`, step: 'Batch', summary: 'Pauses the batch, lets it go on, stops it, takes a machine out or starts one again' },
    body: controlRequestSchema,
    answer: z.object({}),
  }),
  readMerge: define({
    method: 'get',
    path: `${SHOT}/merge`,
    step: 'Batch',
    summary: 'The newest merge of folders; null where there was none',
    answer: mergeSchema,
  }),
  controlMerge: define({
    ...{ method: 'post', path: `${SHOT}/merge`, step: 'Batch', summary: 'Previews a merge of folders, carries it out, or takes it back', status: 202 },
    body: mergeControlSchema,
    answer: z.object({}),
  }),
  listFiles: define({
    ...{ method: 'get', path: `${SHOT}/files`, step: 'Tally', summary: 'The files of the newest count, a part at a time' },
    query: rowQuerySchema,
    answer: rowPageSchema,
  }),
  addWaivers: define({
    ...{ method: 'post', path: `${SHOT}/waivers`, step: 'Tally', summary: 'Waives findings or gates, by name and with a reason', status: 201 },
    says: 'What gives up frames is asked about once more: the answer is 409 with `givenUp`, and the request is sent again with that list.',
    body: z.object({
      subjects: z.array(waiverSubjectSchema).min(1).max(1000),
      person,
      reason: z.string().trim().min(3, 'A reason is needed: the other side will read it.').max(2000),
      givenUp: z.array(z.string()).max(1000).default([]),
    }),
    answer: z.object({}),
  }),
  withdrawWaiver: define({ method: 'delete', path: `${SHOT}/waivers/{waiver}`, step: 'Tally', summary: 'Takes a waiver back', answer: z.object({}) }),
  readStill: define({
    ...{ method: 'get', path: `${SHOT}/still`, step: 'View', summary: 'The picture of a frame as the newest count found it, small', mediaType: 'image/webp' },
    query: z.object({ pass: z.string().max(200), frame: z.coerce.number().int() }),
  }),
  readAssay: define({
    ...{ method: 'get', path: `${SHOT}/assay`, step: 'Assay', summary: 'The figures of the newest assay; null where these frames were not measured' },
    answer: z.object({ assay: keptAssaySchema.nullable() }),
  }),
  readDenoising: define({
    ...{
      method: 'get',
      path: `${SHOT}/denoise`,
      step: 'Assay',
      summary: 'The newest tests and ranges of the filters, and how far they are',
      answer: denoisingSchema,
    },
  }),
  controlDenoising: define({
    ...{
      method: 'post',
      path: `${SHOT}/denoise`,
      step: 'Assay',
      summary: 'Begins a test of the filters or a range, pauses the range, goes on, or stops',
      status: 202,
    },
    body: z.discriminatedUnion('action', [
      z.object({ action: z.literal('begin'), ...{ purpose, pass, strengths, frames, range, region, withLights } }),
      z.object({ action: z.literal('pause') }),
      z.object({ action: z.literal('go-on'), run }),
      z.object({ action: z.literal('stop'), run }),
    ]),
    answer: z.object({}),
  }),
  listMends: define({ method: 'get', path: `${SHOT}/mends`, step: 'Mend', summary: 'What was mended, and what can be taken back', answer: mendsSchema }),
  previewMend: define({
    ...{ method: 'post', path: `${SHOT}/mends/preview`, step: 'Mend', summary: 'What a mend would do, file by file' },
    says: 'A patch or a conversion takes looking into files: ask for the job `mend` with the action `preview` first, and for this when it is done. What was previewed is carried out by the job `mend` with the action `apply` and its `seen`.',
    body: z.object({ wish: mendWishSchema }),
    answer: mendPreviewSchema,
  }),
  readReport: define({
    method: 'get',
    path: `${SHOT}/report`,
    step: 'Handoff',
    summary: 'All that is known before a handoff, as the report has it',
    answer: reportSchema,
  }),
  readHandoff: define({
    method: 'get',
    path: `${SHOT}/handoff`,
    step: 'Handoff',
    summary: 'The stamp, packages with their receipts, movies and contact sheets',
    answer: madeSchema,
  }),
  addStamp: define({
    ...{ method: 'post', path: `${SHOT}/stamps`, step: 'Handoff', summary: 'Signs the version off by name, or sends it back with a note', status: 201 },
    body: z.object({
      kind: z.enum(['signed', 'sent-back']),
      content: z
        .string()
        .regex(/^[0-9a-f]{64}$/)
        .describe('`counted.content` of the shot that was looked at'),
      person,
      note: z.string().trim().max(2000).default(''),
    }),
    answer: z.object({}),
  }),
  addReceipt: define({
    ...{ method: 'post', path: `${SHOT}/receipts`, step: 'Handoff', summary: 'Attaches a receipt that the other side sent back', status: 201 },
    body: receiptSchema,
    answer: z.object({ package: z.number().int().nullable().describe('The package that it is of; null where it is none of this shot’s') }),
  }),
  askForJob: define({
    ...{
      method: 'post',
      path: `${SHOT}/jobs`,
      step: 'Jobs',
      summary: 'Asks for work: a count, an assay, test frames, a mend, a package, a movie, a contact sheet',
      status: 202,
    },
    says: 'Of what stands for the same one waits at most: the newer request takes its place. Ask for the job until its state is done, failed or cancelled.',
    body: askedJobSchema,
    answer: asked,
  }),
  readJob: define({ method: 'get', path: '/jobs/{job}', step: 'Jobs', summary: 'How a job stands, and what it came to', answer: jobSchema }),
  cancelJob: define({ method: 'delete', path: '/jobs/{job}', step: 'Jobs', summary: 'Stops a job', answer: z.object({}) }),
} satisfies Record<string, Operation<z.ZodType, z.ZodType, z.ZodType>>;
export type OperationName = keyof typeof operations;
