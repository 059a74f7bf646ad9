import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { RenderTask } from '@mint-tally/core';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { LocalCommandService } from '../src/index.ts';

let top: string;
let service: LocalCommandService | null = null;

beforeEach(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-local-'));
  mkdirSync(path.join(top, 'frames'));
});
afterEach(() => {
  service?.close();
  rmSync(top, { recursive: true, force: true });
});

/** A renderer that is a few lines of Node. */
function make(script: string, ...rest: string[]): LocalCommandService {
  writeFileSync(path.join(top, 'renderer.cjs'), script);
  service = new LocalCommandService({ name: 'desk', program: process.execPath, arguments: [path.join(top, 'renderer.cjs'), ...rest] }, path.join(top, 'data'));
  return service;
}

const task = async (own: LocalCommandService, frames: number[], id = 'one') =>
  own.takeTask(id, { folder: path.join(top, 'frames'), machine: 'desk', frames, command: [...(await own.describe()).command], priority: 0 });

async function ended(
  own: LocalCommandService,
  id = 'one',
  until = (status: RenderTask) => status.state === 'done' || status.state === 'stopped',
): Promise<RenderTask> {
  for (let i = 0; i < 400; i++) {
    const status = await own.status(id, 0);
    if (status && until(status)) return status;
    await sleep(25);
  }
  throw new Error('it does not end');
}

const WRITER = `
const [, , first, last, folder, note] = process.argv;
for (let frame = Number(first); frame <= Number(last); frame++) {
  require('node:fs').writeFileSync(folder + '/f.' + frame + '.exr', note ?? '');
  console.log('wrote ' + frame);
}
console.error('and a word on the other stream');
`;

describe('a local command', () => {
  it('renders run by run of consecutive frames, without a shell, and keeps its output as the log', async () => {
    const own = make(WRITER, '{first}', '{last}', '{folder}', 'a $(touch hurt) "quoted" word');
    await task(own, [1, 2, 3, 7, 9, 10]);
    const { frames, lines, state } = await ended(own);
    expect(state).toBe('done');
    expect(frames.map(({ frame, state: one }) => `${frame} ${one}`)).toEqual(['1 done', '2 done', '3 done', '7 done', '9 done', '10 done']);
    expect(lines.map(({ text }) => text).filter((text) => text.startsWith('wrote'))).toEqual([1, 2, 3, 7, 9, 10].map((frame) => `wrote ${frame}`));
    expect(lines.filter(({ text }) => /^\d+-\d+: done/.test(text)).map(({ text }) => text.split(':')[0])).toEqual(['1-3', '7-7', '9-10']);
    expect(lines.some(({ text }) => text.includes('other stream'))).toBe(true);
    expect(readFileSync(path.join(top, 'frames', 'f.7.exr'), 'utf8')).toBe('a $(touch hurt) "quoted" word');
    expect(existsSync(path.join(top, 'frames', 'hurt'))).toBe(false);
  });

  it('runs once a frame where its command names the frame', async () => {
    const own = make(WRITER, '{frame}', '{frame}', '{folder}');
    await task(own, [1, 2]);
    const { lines } = await ended(own);
    expect(lines.filter(({ text }) => text.endsWith('s') && text.includes('done in'))).toHaveLength(2);
  });

  it('tells the exit status, and goes on with the next run', async () => {
    const own = make("process.exit(process.argv[2] === '1' ? 3 : 0)", '{first}');
    await task(own, [1, 5]);
    const { frames, lines } = await ended(own);
    expect(frames.map(({ state }) => state)).toEqual(['failed', 'done']);
    expect(lines.map(({ text }) => text)).toContain('1-1: the renderer ended with 3');
  });

  it('says that a program is not there', async () => {
    service = new LocalCommandService({ name: 'desk', program: '/nowhere/renderer', arguments: [] }, path.join(top, 'data'));
    await task(service, [1]);
    const { frames, lines } = await ended(service);
    expect(frames[0].state).toBe('failed');
    expect(lines[0].text).toContain('ENOENT');
  });

  it('runs no other program than the one of the configuration', async () => {
    const own = make(WRITER, '{first}');
    await expect(own.takeTask('x', { folder: top, machine: null, frames: [1], command: ['/bin/sh', '-c', 'true'], priority: 0 })).rejects.toThrow('no other');
  });

  it('stops now, with whatever it has started', async () => {
    const own = make(
      "require('node:child_process').spawn('sleep', ['60'], { stdio: 'inherit' }); setInterval(() => {}, 1000); console.log('running')",
      '{first}',
    );
    await task(own, [1, 2, 8]);
    await ended(own, 'one', ({ lines }) => lines.some(({ text }) => text === 'running'));
    await own.control('one', { action: 'stop', when: 'now' });
    expect((await ended(own)).frames.map(({ state }) => state)).toEqual(['stopped', 'stopped', 'stopped']);
  });

  it('ends a renderer that a fallen engine has left, before it begins one of its own', async () => {
    const before = make("require('node:fs').writeFileSync(process.argv[2] + '/alive', String(process.pid)); setInterval(() => {}, 1000)", '{folder}');
    await task(before, [1]);
    const alive = path.join(top, 'frames', 'alive');
    while (!existsSync(alive) || readFileSync(alive, 'utf8') === '') await sleep(20);
    const processId = Number(readFileSync(alive, 'utf8'));
    const after = make(WRITER, '{first}', '{last}', '{folder}');
    await task(after, [1]);
    await ended(after);
    expect(() => process.kill(processId, 0)).toThrow('ESRCH');
    before.close();
  });
});
