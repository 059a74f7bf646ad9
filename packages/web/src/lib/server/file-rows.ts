import { frameStates, parseFrameRange, rowsOfPass, stateRank, type FileTable, type FrameSet } from '@mint-tally/core';
import { readAssay, readStateKey } from '@mint-tally/store';
import { LRUCache } from 'lru-cache';
import type { FileRow, Figures, MeasuredLane, RowQuery } from '$lib/files/file-row';
import { loadFileTable } from './file-tables';
import { services } from './services';
import { loadShotState, type ShotState } from './shot-state';

type Question = Omit<RowQuery, 'from' | 'count'>;

/** The order of rows that a question gives, for the questions that were asked last: whoever scrolls asks the same again. */
const asked = new LRUCache<string, Uint32Array>({ maxSize: 2_000_000, sizeCalculation: (rows) => rows.length + 1 });

/** Every file's state: the worst that is known of its frame. */
function statesOf(table: FileTable, state: ShotState): (row: number) => string {
  const lanes = table.passes.map((name) => {
    const lane = state.lanes.find(({ pass }) => pass === name);
    return lane ? { frames: parseFrameRange(lane.frames), states: lane.states } : null;
  });
  const at = (lane: { frames: FrameSet; states: string } | null, frame: number) => lane?.states[lane.frames.indexOf(frame)] ?? frameStates.later;
  return (row) => at(lanes[table.pass[row]], table.frame[row]);
}

/** Numbers of the rows that a question is about, in its order. */
function orderRows({ shot, stateKey }: ShotState, table: FileTable, stateOf: (row: number) => string, question: Question): Uint32Array {
  const key = JSON.stringify([shot.id, stateKey, question]);
  const known = asked.get(key);
  if (known) return known;
  const text = question.text.toLowerCase();
  const [from, to] = question.pass === '' ? [0, table.path.length] : rowsOfPass(table, question.pass);
  const found: number[] = [];
  for (let row = from; row < to; row++) {
    if (text !== '' && !table.path[row]!.toLowerCase().includes(text)) continue;
    if (question.only === 'trouble' && stateOf(row) === frameStates.sound) continue;
    found.push(row);
  }
  const rows = Uint32Array.from(found);
  const compare = comparison(table, stateOf, question.sort);
  const sign = question.down === '1' ? -1 : 1;
  rows.sort((a, b) => sign * (compare(a, b) || compareText(table.path[a]!, table.path[b]!)));
  asked.set(key, rows);
  return rows;
}

const compareText = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

function comparison(table: FileTable, stateOf: (row: number) => string, column: Question['sort']): (a: number, b: number) => number {
  const hostOf = (row: number) => table.hosts[table.host[row]] ?? '';
  switch (column) {
    case 'path':
      return () => 0;
    case 'state':
      return (a, b) => stateRank(stateOf(b)) - stateRank(stateOf(a));
    case 'pass':
      return (a, b) => compareText(table.passes[table.pass[a]], table.passes[table.pass[b]]);
    case 'kind':
      return (a, b) => compareText(table.kinds[table.kind[a]], table.kinds[table.kind[b]]);
    case 'host':
      return (a, b) => compareText(hostOf(a), hostOf(b));
    case 'samples':
      return (a, b) => (table.samples[a] ?? -1) - (table.samples[b] ?? -1);
    default:
      return (a, b) => table[column][a] - table[column][b];
  }
}

function showRow(table: FileTable, stateOf: (row: number) => string, row: number): FileRow {
  return {
    path: table.path[row]!,
    pass: table.passes[table.pass[row]!]!,
    frame: table.frame[row],
    state: stateOf(row),
    size: table.size[row],
    modified: table.modified[row],
    kind: table.kinds[table.kind[row]!]!,
    host: table.hosts[table.host[row]] ?? null,
    samples: table.samples[row],
  };
}

/** The rows that a question gives, in its order: those from a place on, so many at most, and how many there are. */
export async function selectRows(shotId: number, question: Question, from = 0, count = Infinity): Promise<{ total: number; rows: FileRow[] }> {
  const { database } = services();
  const state = await loadShotState(database, shotId);
  const table = await loadFileTable(shotId, state.stateKey);
  if (!table) return { total: 0, rows: [] };
  const stateOf = statesOf(table, state);
  const order = orderRows(state, table, stateOf, question);
  return { total: order.length, rows: Array.from(order.subarray(from, from + count), (row) => showRow(table, stateOf, row)) };
}

/** A pass's file sizes and machines over its frames. */
export async function readFigures(shotId: number, pass: string): Promise<Figures> {
  const { database } = services();
  const table = await loadFileTable(shotId, await readStateKey(database, shotId));
  if (!table) return { frames: [], sizes: [], host: [], hosts: [], measured: null };
  const [from, to] = rowsOfPass(table, pass);
  return {
    frames: table.frame.slice(from, to),
    sizes: table.size.slice(from, to),
    host: table.host.slice(from, to),
    hosts: table.hosts,
    measured: await readMeasured(shotId, pass),
  };
}

/** What the assay measured of a pass; null where it was of other frames. */
async function readMeasured(shotId: number, pass: string): Promise<Figures['measured']> {
  const { database } = services();
  if ((await loadShotState(database, shotId)).assay === null) return null;
  const own = (await readAssay(database, shotId))?.frames.filter((frame) => frame.pass === pass) ?? [];
  const of = <Key extends MeasuredLane>(key: Key) => own.map((frame) => frame[key]);
  return own.length === 0
    ? null
    : {
        frames: own.map(({ frame }) => frame),
        noise: of('noise'),
        temporalNoise: of('temporalNoise'),
        meanLuminance: of('meanLuminance'),
        fireflies: of('fireflies'),
      };
}
