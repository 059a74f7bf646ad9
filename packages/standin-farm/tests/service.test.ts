import { existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, realpathSync, rmSync, statSync, symlinkSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import zlib from 'node:zlib';
import { fillFromBrief, inspectFrameFile, machineSchema, memorySource, renderTaskSchema, parseBrief, type RenderTask } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Farm, serveFarm, USUAL_COMMAND } from '../src/index.ts';

const workerFile = path.resolve(import.meta.dirname, '../../../build/services/render-worker.js');
const token = 'a token for this test';
let top: string;
let farm: Farm;
let service: Awaited<ReturnType<typeof serveFarm>>;
let tasks = 0;

beforeAll(async () => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-farm-')));
  farm = new Farm({ workerFile, threads: 2, machines: ['bowline', 'reef', 'clove'].map((name) => ({ name, speed: 20 })) });
  service = await serveFarm(farm, { token, folders: [top], port: 0 });
});
afterAll(async () => {
  await service.close();
  rmSync(top, { recursive: true, force: true });
});

const ask = (method: string, where: string, body?: unknown, bearer = token) =>
  fetch(service.url + where, {
    method,
    headers: { Authorization: `Bearer ${bearer}`, 'Content-Type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  });

const brief = parseBrief({
  shot: 'orr_030',
  range: '1001-1036',
  resolution: [48, 27],
  sampling: { samples: 4 },
  version: 'v002',
  passes: [
    { name: 'beauty', role: 'beauty', pattern: 'beauty/orr_030_beauty.####.exr' },
    { name: 'depth', role: 'depth', pattern: 'depth/orr_030_depth.####.exr' },
  ],
});

const commandWith = (...extra: string[]) => [...fillFromBrief(USUAL_COMMAND, brief, ['frame', 'folder']), ...extra];

/** Has frames rendered into a folder of their own and gives what it came to, and the folder. */
async function render(frames: number[], options: { machine?: string | null; extra?: string[]; folder?: string } = {}) {
  const id = `task-${++tasks}`;
  const folder = options.folder ?? path.join(top, id);
  const response = await ask('PUT', `/tasks/${id}`, { folder, machine: options.machine ?? null, frames, command: commandWith(...(options.extra ?? [])) });
  expect(response.status).toBe(204);
  return { id, folder };
}

async function status(id: string): Promise<RenderTask> {
  return renderTaskSchema.parse(await (await ask('GET', `/tasks/${id}`)).json());
}

async function settled(id: string, until = (task: RenderTask) => task.state === 'done' || task.state === 'stopped'): Promise<RenderTask> {
  for (let i = 0; i < 1600; i++) {
    const task = await status(id);
    if (until(task)) return task;
    await sleep(25);
  }
  throw new Error(`task ${id} does not end`);
}

const beauty = (folder: string, frame: number) => path.join(folder, `beauty/orr_030_beauty.${frame}.exr`);

function look(file: string) {
  const tools = {
    inflate: (data: Uint8Array, maxOutputLength: number) => zlib.inflateSync(data, { maxOutputLength }),
    crc32: (data: Uint8Array) => zlib.crc32(data),
  };
  return inspectFrameFile(memorySource(readFileSync(file)), file, 'full', tools).facts;
}

describe('the stand-in farm', () => {
  it('answers nobody without its token', async () => {
    expect((await ask('GET', '/machines', undefined, 'another')).status).toBe(401);
    expect((await fetch(`${service.url}/machines`)).status).toBe(401);
  });

  it('names its machines', async () => {
    const machines = machineSchema.array().parse(await (await ask('GET', '/machines')).json());
    expect(machines.map(({ name, state }) => `${name} ${state}`)).toEqual(['bowline idle', 'reef idle', 'clove idle']);
  });

  it('renders every frame of a task once, whole, over all its machines', async () => {
    const { id, folder } = await render([1001, 1036, 1018, 1002, 1003, 1004]);
    const task = await settled(id);
    expect(task.state).toBe('done');
    expect(task.frames.every(({ state, seconds }) => state === 'done' && seconds! > 0)).toBe(true);
    expect(new Set(task.frames.map(({ machine }) => machine)).size).toBeGreaterThan(1);
    expect(readdirSync(path.join(folder, 'beauty')).sort()).toEqual([1001, 1002, 1003, 1004, 1018, 1036].map((frame) => `orr_030_beauty.${frame}.exr`));
    const facts = look(beauty(folder, 1018));
    expect(facts).toMatchObject({ problem: null, header: { width: 48, height: 27, metadata: { samples: 4, camera: 'keeper', version: 'v002', frame: 1018 } } });
    expect(facts.header!.metadata.renderTime).toBeGreaterThan(0);
    expect(task.lines.map(({ number }) => number)).toEqual(task.lines.map((_, i) => i + 1));
    const later = renderTaskSchema.parse(await (await ask('GET', `/tasks/${id}?after=4`)).json());
    expect(later.lines).toEqual(task.lines.slice(4));
  });

  it('writes behind no link that leads out, whether the task names it or it stands in the folder', async () => {
    const outside = mkdtempSync(path.join(os.tmpdir(), 'mint-outside-'));
    symlinkSync(outside, path.join(top, 'way-out'));
    const named = await ask('PUT', '/tasks/named', { folder: path.join(top, 'way-out', 'new'), machine: null, frames: [1001], command: commandWith() });
    expect(named.status).toBe(400);
    const folder = path.join(top, 'trapped');
    mkdirSync(folder);
    symlinkSync(outside, path.join(folder, 'beauty'));
    const { id } = await render([1001], { folder });
    expect((await settled(id)).frames[0].state).toBe('failed');
    expect(readdirSync(outside)).toEqual([]);
    rmSync(outside, { recursive: true });
  });

  it('gives the same bytes for the same task', async () => {
    const [a, b] = [await render([1005], { machine: 'reef' }), await render([1005], { machine: 'reef' })];
    await Promise.all([settled(a.id), settled(b.id)]);
    expect(readFileSync(beauty(a.folder, 1005)).equals(readFileSync(beauty(b.folder, 1005)))).toBe(true);
  });

  it('stops its frames by seconds, with as many samples as they allow', async () => {
    const { id, folder } = await render([1001], { extra: ['--samples=400', '--seconds=0.05'] });
    await settled(id);
    const samples = look(beauty(folder, 1001)).header!.metadata.samples as number;
    expect(samples).toBeGreaterThan(2);
    expect(samples).toBeLessThan(400);
  });

  it('ends the frames of a brief without samples by its seconds a frame', async () => {
    const timed = { ...brief, sampling: { secondsPerFrame: 0.05 } };
    const command = fillFromBrief(USUAL_COMMAND, timed, ['frame', 'folder']);
    expect(command).toContain('--seconds=0.05');
    const folder = path.join(top, 'timed');
    expect((await ask('PUT', '/tasks/timed', { folder, machine: null, frames: [1001], command })).status).toBe(204);
    await settled('timed');
    const samples = look(beauty(folder, 1001)).header!.metadata.samples as number;
    expect(samples).toBeGreaterThan(1);
    expect(samples).toBeLessThan(400);
    expect(commandWith()).toContain('--seconds=');
    expect(() => fillFromBrief(USUAL_COMMAND, { ...brief, sampling: undefined }, ['frame', 'folder'])).toThrow('neither samples nor seconds');
  });

  it('takes a task once, and refuses another under its name', async () => {
    const { id, folder } = await render([1001]);
    const again = { folder, machine: null, frames: [1001], command: commandWith() };
    expect((await ask('PUT', `/tasks/${id}`, again)).status).toBe(204);
    expect((await ask('PUT', `/tasks/${id}`, { ...again, frames: [1002] })).status).toBe(409);
    await settled(id);
  });

  it.each([
    ['a folder that is not its own', { folder: '/etc' }, 400, /does not write into/],
    ['a folder beside its own', { folder: '' as string, beside: true }, 400, /does not write into/],
    ['another program', { command: ['sh', '-c', 'true'] }, 400, /knows orrery/],
    ['a size that is none', { command: ['orrery', '--shot=a', '--range=1-2', '--size=big', '--samples=1', '--passes=[]'] }, 400, /--size/],
    ['a machine that is not there', { machine: 'splice' }, 404, /no machine splice/],
    ['no frame', { frames: [] }, 400, /frames/],
  ])('refuses %s in words', async (_what, change, wanted, message) => {
    const { beside, ...given } = change as { beside?: boolean };
    const response = await ask('PUT', `/tasks/refused-${++tasks}`, {
      folder: beside ? `${top}-beside` : top,
      machine: null,
      frames: [1],
      command: commandWith(),
      ...(beside ? {} : given),
    });
    expect(response.status).toBe(wanted);
    expect(((await response.json()) as { message: string }).message).toMatch(message);
  });

  it('pauses and goes on, and puts what is urgent first', async () => {
    const first = await render([1001, 1002, 1003, 1004, 1005, 1006], { machine: 'clove' });
    await ask('POST', `/tasks/${first.id}/control`, { action: 'pause' });
    const urgent = await render([1010], { machine: 'clove' });
    await settled(urgent.id);
    expect((await status(first.id)).frames.filter(({ state }) => state === 'waiting').length).toBeGreaterThan(3);
    await ask('POST', `/tasks/${first.id}/control`, { action: 'resume' });
    expect((await settled(first.id)).frames.every(({ state }) => state === 'done')).toBe(true);
  });

  it('stops now, in the middle of a frame', async () => {
    const { id, folder } = await render([1001, 1002], { machine: 'reef', extra: ['--samples=20000'] });
    await settled(id, (task) => task.state === 'rendering');
    await ask('POST', `/tasks/${id}/control`, { action: 'stop', when: 'now' });
    expect((await settled(id)).frames.map(({ state }) => state)).toEqual(['stopped', 'stopped']);
    expect(existsSync(beauty(folder, 1001))).toBe(false);
  });

  it('stops after the frame in hand', async () => {
    const { id, folder } = await render([1001, 1002, 1003], { machine: 'reef', extra: ['--samples=64'] });
    await settled(id, (task) => task.frames[0].state === 'rendering');
    await ask('POST', `/tasks/${id}/control`, { action: 'stop', when: 'after-frame' });
    expect((await settled(id)).frames.map(({ state }) => state)).toEqual(['done', 'stopped', 'stopped']);
    expect(look(beauty(folder, 1001)).problem).toBeNull();
  });

  describe('lets go wrong what it is told to', () => {
    const broken = async (fault: string, frame = 1002) => {
      const { id, folder } = await render([1001, 1002, 1003], { machine: 'bowline', extra: [`--faults=bowline:${fault}:${frame}`] });
      return { task: await settled(id), folder };
    };

    it('a file cut short, and a renderer that says so', async () => {
      const { task, folder } = await broken('cut-short');
      expect(task.frames.map(({ state }) => state)).toEqual(['done', 'failed', 'done']);
      expect(look(beauty(folder, 1002)).problem?.code).toBe('truncated');
      expect(task.lines.some(({ text }) => text.includes('status 1'))).toBe(true);
    });

    it('an empty file and a skipped frame, called done', async () => {
      const { id, folder } = await render([1001, 1002], { machine: 'bowline', extra: ['--faults=bowline:empty-file:1001,bowline:skip:1002'] });
      expect((await settled(id)).frames.map(({ state }) => state)).toEqual(['done', 'done']);
      expect(statSync(beauty(folder, 1001)).size).toBe(0);
      expect(existsSync(beauty(folder, 1002))).toBe(false);
    });

    it('half the size, another camera, an older version, fewer samples', async () => {
      const faults = ['half-size:1001', 'other-camera:1002', 'old-version:1003', 'fewer-samples:1004'].map((fault) => `bowline:${fault}`).join(',');
      const { id, folder } = await render([1001, 1002, 1003, 1004], { machine: 'bowline', extra: [`--faults=${faults}`] });
      await settled(id);
      const headers = [1001, 1002, 1003, 1004].map((frame) => look(beauty(folder, frame)).header!);
      expect(headers.map(({ width }) => width)).toEqual([24, 48, 48, 48]);
      expect(headers.map(({ metadata }) => metadata.camera)).toEqual(['keeper', 'gallery', 'keeper', 'keeper']);
      expect(headers.map(({ metadata }) => metadata.version)).toEqual(['v002', 'v002', 'v001', 'v002']);
      expect(headers.map(({ metadata }) => metadata.samples)).toEqual([4, 4, 4, 1]);
    });

    it('a cold start: the first frames after it have not settled', async () => {
      await ask('POST', '/machines/bowline/control', { action: 'restart' });
      const { id, folder } = await render([1001, 1002, 1003, 1004, 1005], { machine: 'bowline', extra: ['--faults=bowline:cold-start', '--samples=16'] });
      await settled(id);
      const samples = [1001, 1002, 1003, 1004, 1005].map((frame) => look(beauty(folder, frame)).header!.metadata.samples);
      expect(samples).toEqual([2, 4, 8, 16, 16]);
    });

    it('a pass that lags a frame behind', async () => {
      const { folder } = await broken('lagging-pass');
      const right = await render([1001], { machine: 'bowline' });
      await settled(right.id);
      const pixels = (where: string, frame: number) => {
        const bytes = readFileSync(path.join(where, `depth/orr_030_depth.${frame}.exr`));
        return bytes.subarray(bytes.length - 400).toString('hex');
      };
      expect(pixels(folder, 1002)).toBe(pixels(right.folder, 1001));
      expect(pixels(folder, 1003)).not.toBe(pixels(folder, 1002));
    });

    it('a hang that only a stop ends', async () => {
      const { id } = await render([1001, 1002], { machine: 'bowline', extra: ['--faults=bowline:hang:1001'] });
      await sleep(300);
      expect((await status(id)).frames.map(({ state }) => state)).toEqual(['rendering', 'waiting']);
      await ask('POST', '/machines/bowline/control', { action: 'restart' });
      expect((await settled(id)).frames.map(({ state }) => state)).toEqual(['stopped', 'done']);
    });

    it('a loss of power, after which the machine stays down until it is started again', async () => {
      const { id, folder } = await render([1001, 1002, 1003], { machine: 'bowline', extra: ['--faults=bowline:power-loss:1002', '--samples=64'] });
      await settled(id, (task) => task.frames[1].state === 'failed');
      expect(((await (await ask('GET', '/machines')).json()) as { state: string }[])[0].state).toBe('down');
      expect(readdirSync(path.join(folder, 'beauty'))).toEqual(['orr_030_beauty.1001.exr']);
      expect((await ask('POST', '/machines/bowline/control', { action: 'resume' })).status).toBe(409);
      await ask('POST', '/machines/bowline/control', { action: 'restart' });
      expect((await settled(id)).frames.map(({ state }) => state)).toEqual(['done', 'failed', 'done']);
    });

    it('by chance, the same for the same seed', async () => {
      const frames = Array.from({ length: 10 }, (_, i) => 1001 + i);
      const names = async (seed: number) => {
        const { id, folder } = await render(frames, { machine: 'clove', extra: [`--faults=random:${seed}:0.6`, '--samples=1'] });
        await settled(id);
        return readdirSync(path.join(folder, 'beauty'))
          .map((name) => `${name} ${statSync(path.join(folder, 'beauty', name)).size}`)
          .join();
      };
      const [a, b, c] = [await names(7), await names(7), await names(8)];
      expect(a).toBe(b);
      expect(a).not.toBe(c);
    });
  });
});
