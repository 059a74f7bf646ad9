import { frameStates, stateRank, type Lane } from '@mint-tally/core';
import { listFileRows, type FileRow as StoredRow } from '@mint-tally/store';
import type { FileRow, Measures, RowQuery } from '$lib/files/file-row';
import { findIndex, needBrief } from './frames';
import { services } from './services';
import { loadShotState } from './shot-state';

/** Rows by count, for the shots that were looked at last. */
const kept = new Map<string, readonly FileRow[]>();
const KEPT = 4;

/** Every file that stands for an ordered frame, with its frame's state. */
async function loadRows(shotId: number): Promise<readonly FileRow[]> {
  const { database } = services();
  const index = await findIndex(shotId, await needBrief(shotId));
  const { lanes, count, waivers } = await loadShotState(database, shotId);
  // The same waivers, not as many: one withdrawn and another added is another state.
  const key = `${index.key}/${count?.at ?? ''}/${waivers.map(({ id }) => id).join()}`;
  const known = kept.get(key);
  if (known) return known;
  const stored = new Map((await listFileRows(database, shotId)).map((row) => [row.path, row]));
  const rows: FileRow[] = [];
  index.order.passes.forEach(({ owner, pass, frames }, number) => {
    if (owner !== number) return;
    const states = statesOf(lanes, pass.name);
    let i = 0;
    for (const frame of frames) {
      const state = states[i++] ?? frameStates.later;
      for (const path of index.pathsOf(number, frame)) {
        const row = stored.get(path);
        if (row) rows.push(showRow(row, pass.name, frame, state));
      }
    }
  });
  kept.set(key, rows);
  for (const old of kept.keys()) if (kept.size > KEPT) kept.delete(old);
  return rows;
}

function statesOf(lanes: readonly Lane[], pass: string): string {
  return lanes.find((lane) => lane.pass === pass)?.states ?? '';
}

function showRow(row: StoredRow, pass: string, frame: number, state: string): FileRow {
  const { path, size, modified, width, height, depth, compression, host, samples } = row;
  const kind = width === null ? '' : [`${width} x ${height}`, depth && (/^\d/.test(depth) ? `${depth} bit` : depth), compression].filter(Boolean).join(', ');
  return { path, pass, frame, state, size, modified, kind, host, samples };
}

/** The rows that a query asks for, all of them, in its order. */
export async function selectRows(shotId: number, query: Omit<RowQuery, 'from' | 'count'>): Promise<FileRow[]> {
  const text = query.text.toLowerCase();
  const rows = (await loadRows(shotId)).filter(
    (row) =>
      (query.pass === '' || row.pass === query.pass) &&
      (text === '' || row.path.toLowerCase().includes(text)) &&
      (query.only === 'all' || row.state !== frameStates.sound),
  );
  const valueOf = (row: FileRow): string | number => (query.sort === 'state' ? -stateRank(row.state) : (row[query.sort] ?? ''));
  const sign = query.down === '1' ? -1 : 1;
  return rows.sort((a, b) => {
    const [one, other] = [valueOf(a), valueOf(b)];
    const order = one < other ? -1 : one > other ? 1 : a.path < b.path ? -1 : 1;
    return sign * order;
  });
}

/** A pass's file sizes and machines over its frames. */
export async function readMeasures(shotId: number, pass: string): Promise<Measures> {
  const rows = (await loadRows(shotId)).filter((row) => row.pass === pass);
  const hosts: string[] = [];
  const host = rows.map((row) => {
    if (row.host === null) return -1;
    if (!hosts.includes(row.host)) hosts.push(row.host);
    return hosts.indexOf(row.host);
  });
  return { frames: rows.map((row) => row.frame), sizes: rows.map((row) => row.size), host, hosts };
}
