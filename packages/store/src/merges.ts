import { mergeRules, mergeStepSchema, mergeWays, type MergeStep, type MergeWay } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';

/** What somebody wants merged. */
export const mergeRequestSchema = z.object({
  sources: z
    .array(z.object({ root: z.string().max(32), folder: z.string().max(2048) }))
    .min(1)
    .max(100),
  rule: z.enum(mergeRules),
  way: z.enum(mergeWays),
  /** Files chosen by hand, where several claim one frame. Source 0 is the shot's own folder. */
  byHand: z
    .array(z.object({ target: z.string(), source: z.number().int().min(0), path: z.string() }))
    .max(100_000)
    .default([]),
});
export type MergeRequest = z.output<typeof mergeRequestSchema>;

const mergeFindingsSchema = z.object({
  gaps: z.array(z.object({ pass: z.string(), frames: z.string() })),
  strays: z.array(z.object({ source: z.number(), path: z.string() })),
  strayCount: z.number(),
});
/** What a preview found besides the steps. */
export type MergeFindings = z.output<typeof mergeFindingsSchema>;

export type MergeState = 'previewing' | 'previewed' | 'running' | 'done' | 'undoing' | 'undone';

export interface Merge {
  readonly id: number;
  readonly shotId: number;
  readonly request: MergeRequest;
  readonly way: MergeWay;
  readonly findings: MergeFindings | null;
  readonly state: MergeState;
  readonly createdAt: Date;
  /** Stands for its plan in the journals of the folder; null before it was carried out. */
  readonly planSeen: string | null;
}

export async function createMerge(on: Queryable, shotId: number, request: MergeRequest, actor: string): Promise<number> {
  const { insertedId } = await on.change('INSERT INTO merges (shot_id, request, way, created_at, actor) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    shotId,
    JSON.stringify(request),
    request.way,
    actor,
  ]);
  return insertedId;
}

function toMerge(row: Record<string, unknown>): Merge {
  return {
    id: row.id as number,
    shotId: row.shot_id as number,
    request: readStored(`Merge ${row.id as number}`, () => mergeRequestSchema.parse(JSON.parse(row.request as string))),
    way: row.way as MergeWay,
    findings: row.findings === null ? null : mergeFindingsSchema.parse(JSON.parse(row.findings as string)),
    state: row.state as MergeState,
    createdAt: row.created_at as Date,
    planSeen: row.plan_seen as string | null,
  };
}

const COLUMNS = 'id, shot_id, request, way, findings, state, created_at, plan_seen';

export async function findMerge(on: Queryable, id: number): Promise<Merge | null> {
  const [row] = await on.rows(`SELECT ${COLUMNS} FROM merges WHERE id = ?`, [id]);
  return row ? toMerge(row) : null;
}

export async function newestMerge(on: Queryable, shotId: number): Promise<Merge | null> {
  const [row] = await on.rows(`SELECT ${COLUMNS} FROM merges WHERE shot_id = ? ORDER BY id DESC LIMIT 1`, [shotId]);
  return row ? toMerge(row) : null;
}

/** Writes down what a preview found; it takes the place of an earlier one. */
export async function savePreview(inside: Transaction, mergeId: number, steps: readonly MergeStep[], findings: MergeFindings): Promise<void> {
  await inside.change('DELETE FROM merge_steps WHERE merge_id = ?', [mergeId]);
  const rows = steps.map((step, position) => [mergeId, position, JSON.stringify(step)]);
  for (let start = 0; start < rows.length; start += 2000)
    await inside.insertMany('INSERT INTO merge_steps (merge_id, position, body) VALUES ?', rows.slice(start, start + 2000));
  await inside.change("UPDATE merges SET findings = ?, state = 'previewed' WHERE id = ?", [JSON.stringify(findings), mergeId]);
}

/** What a merge does, as it was previewed. */
export async function listMergeSteps(on: Queryable, mergeId: number): Promise<MergeStep[]> {
  const rows = await on.rows('SELECT body FROM merge_steps WHERE merge_id = ? ORDER BY position', [mergeId]);
  return rows.map((row) => readStored(`Merge ${mergeId}`, () => mergeStepSchema.parse(JSON.parse(row.body as string))));
}

/** Notes how far a merge is. @param planSeen what stands for its plan; as it was where none is given */
export async function setMergeState(on: Queryable, mergeId: number, state: MergeState, planSeen: string | null = null): Promise<void> {
  await on.change('UPDATE merges SET state = ?, plan_seen = COALESCE(?, plan_seen) WHERE id = ?', [state, planSeen, mergeId]);
}
