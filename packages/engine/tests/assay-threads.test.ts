import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { assayFolder, type AssayOptions } from '../src/assaying/assay-folder.ts';

const FRAMES = 60;

let top = '';
beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-assay-threads-'));
  mkdirSync(path.join(top, 'shot'));
  const rendered = Array.from({ length: 6 }, (_, i) => renderLit(i, 1, 10 + i));
  writeLitShot(
    path.join(top, 'shot'),
    Array.from({ length: FRAMES }, (_, i) => rendered[i % rendered.length]!),
  );
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

const assay = (options: Partial<AssayOptions>) =>
  assayFolder({
    folder: path.join(top, 'shot'),
    brief: parseBrief(JSON.parse(readFileSync(path.join(top, 'shot', 'brief.json'), 'utf8'))),
    now: Date.now(),
    apart: true,
    ...options,
  });

describe('frames that are measured on threads', () => {
  it('are the same however many there are, and told as they come', async () => {
    const told: number[] = [];
    const [one, two] = [await assay({ threads: 1 }), await assay({ threads: 2, onProgress: (done) => told.push(done) })];
    expect(two!.frames.map(({ noise }) => noise)).toEqual(one!.frames.map(({ noise }) => noise));
    expect(one!.frames).toHaveLength(FRAMES);
    expect(told.at(-1)).toBe(FRAMES);
    expect(told).toEqual([...new Set(told)].sort((a, b) => a - b));
  });

  // How many frames that takes depends on what else the machine does.
  it('end soon when somebody stops it, in the middle of a stretch', { retry: 2 }, async () => {
    let done = 0;
    const stopped = await assay({ threads: 1, onProgress: (frames) => (done = frames), stopped: () => done > 0 });
    expect(stopped).toBeNull();
    // A stretch is 24 frames long.
    expect(done).toBeLessThan(24);
  });
});
