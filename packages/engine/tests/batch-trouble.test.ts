import { mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseBrief, type RenderTaskRequest, type RenderTask } from '@mint-tally/core';
import {
  batchSettingsSchema,
  createBatch,
  createShot,
  ensureProject,
  findBatch,
  findJob,
  listAlarms,
  newestBrief,
  requestJob,
  saveBrief,
  wishBatch,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { writeSequence } from '../../../tests/support/frames.ts';
import { HttpRenderService, InspectionPool, JobRunner } from '../src/index.ts';

/** A render service over HTTP that answers as a test tells it to. */
class MoodyService {
  status = 200;
  /** Whether the frames that were ordered are done. */
  rendered = false;
  stopped: string[] = [];
  readonly tasks = new Map<string, RenderTaskRequest>();
  folder = '';
  private readonly server: Server = createServer((request, response) => {
    const answer = (status: number, body: unknown = {}) => response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    const [, , id, control] = new URL(request.url!, 'http://x').pathname.split('/');
    let text = '';
    request.on('data', (piece: Buffer) => (text += piece.toString()));
    request.on('end', () => {
      if (this.status !== 200 && control === undefined) return answer(this.status, { message: 'in a mood', remedy: '' });
      if (request.url!.startsWith('/machines')) return answer(200, []);
      if (control !== undefined) {
        if (text.includes('"stop"')) this.stopped.push(id);
        return answer(204);
      }
      if (request.method === 'PUT') {
        this.tasks.set(id, JSON.parse(text) as RenderTaskRequest);
        return answer(204);
      }
      const task = this.tasks.get(id);
      return task ? answer(200, this.statusOf(id, task)) : answer(404);
    });
  });

  private statusOf(id: string, { frames }: RenderTaskRequest): RenderTask {
    const state = this.rendered ? 'done' : 'rendering';
    return { id, state, priority: 0, lines: [], frames: frames.map((frame) => ({ frame, state, machine: 'bowline', seconds: this.rendered ? 1 : null })) };
  }

  async start(): Promise<string> {
    await new Promise<void>((resolve) => this.server.listen(0, '127.0.0.1', () => resolve()));
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  async close(): Promise<void> {
    this.server.closeAllConnections();
    await new Promise((resolve) => this.server.close(resolve));
  }
}

let top: string;
let database: Database;
let pool: InspectionPool;
let runner: JobRunner;
let service: MoodyService;
let projectId: number;
let shots = 0;

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-trouble-'));
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  pool = new InspectionPool(1);
  service = new MoodyService();
  const http = new HttpRenderService({ name: 'farm', url: await service.start(), token: 't' });
  runner = new JobRunner({ database, config: testConfig(top, [{ name: 'shots', writable: true }]), pool, services: [http] }, () => undefined);
  await runner.start();
});
beforeEach(() => {
  service.status = 200;
  service.rendered = false;
  service.stopped = [];
});
afterAll(async () => {
  await runner.stop();
  await service.close();
  await pool.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

async function begin(): Promise<{ batch: number; job: number; folder: string }> {
  const name = `shot${++shots}`;
  const folder = path.join(top, 'shots', name);
  mkdirSync(folder);
  const shotId = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
  const brief = parseBrief({ shot: name, range: '1001-1004', passes: [{ name: 'beauty', pattern: 'beauty.####.png' }] });
  await database.transaction((inside) => saveBrief(inside, shotId, brief, 'ada'));
  const { id: briefId } = (await newestBrief(database, shotId))!;
  const [batch, job] = await database.transaction(async (inside) => {
    const shares = [{ machine: 'bowline', frames: [1001, 1002, 1003, 1004] }];
    const id = await createBatch(inside, { shotId, briefId, service: 'farm', command: ['x'], settings: batchSettingsSchema.parse({}) }, shares, 'ada');
    return [id, await requestJob(inside, shotId, { kind: 'render', batch: id }, 'ada')];
  });
  await until(async () => service.tasks.size >= shots);
  return { batch, job, folder };
}

async function until(holds: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 600; i++) {
    if (await holds()) return;
    await sleep(50);
  }
  throw new Error('It does not come to that.');
}

const standing = async (batch: number) => (await listAlarms(database, batch)).filter(({ settledAt }) => settledAt === null).map(({ kind }) => kind);

describe('a batch', () => {
  it.each([500, 502, 503, 429])('waits out a service that answers %d, and goes on', async (status) => {
    const { batch, folder } = await begin();
    service.status = status;
    await until(async () => (await standing(batch)).includes('service-lost'));
    expect((await findBatch(database, batch))!.outcome).toBeNull();
    service.status = 200;
    await until(async () => !(await standing(batch)).includes('service-lost'));
    writeSequence(folder, 1001, 1004);
    service.rendered = true;
    await until(async () => (await findBatch(database, batch))!.outcome === 'done');
  });

  it.each(['and goes on when it is back', 'and can be stopped meanwhile'])('waits out a folder that is away, %s', async (end) => {
    const { batch, folder } = await begin();
    renameSync(folder, `${folder}.away`);
    service.rendered = true;
    await until(async () => (await standing(batch)).includes('trouble'));
    expect((await findBatch(database, batch))!.outcome).toBeNull();
    if (end.includes('stopped')) {
      await wishBatch(database, batch, 'stop-now');
      await until(async () => (await findBatch(database, batch))!.outcome === 'stopped');
      return;
    }
    renameSync(`${folder}.away`, folder);
    writeSequence(folder, 1001, 1004);
    await until(async () => (await findBatch(database, batch))!.outcome === 'done');
  });

  it('that the service refuses has failed, says why, and its tasks are stopped', async () => {
    const { batch, job } = await begin();
    service.status = 400;
    await until(async () => (await findBatch(database, batch))!.outcome === 'failed');
    await until(async () => (await findJob(database, job))!.state === 'failed');
    expect((await findJob(database, job))!.error!.message).toContain('farm refuses: in a mood');
    expect(service.stopped.length).toBeGreaterThan(0);
  });
});
