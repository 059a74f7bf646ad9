import path from 'node:path';
import { timingSafeEqual } from 'node:crypto';
import { serve } from '@hono/node-server';
import {
  MintError,
  machineControlSchema,
  renderTaskControlSchema,
  renderTaskRequestSchema,
  RENDER_SERVICE_VERSION,
  type ServiceDescription,
} from '@mint-tally/core';
import { HeldFolder, isInside } from '@mint-tally/disk';
import { Hono, type Context } from 'hono';
import type * as z from 'zod';
import { USUAL_COMMAND } from './command.ts';
import type { Farm } from './farm.ts';

const STATUS: Record<string, 404 | 409> = { 'no-task': 404, 'no-machine': 404, 'task-taken': 409, 'machine-down': 409 };

/** The farm's interface, as docs/render-service.md describes it. */
export function makeInterface(farm: Farm, options: { token: string; folders: readonly string[] }): Hono {
  const app = new Hono();
  app.use(async (context, next) => {
    if (!isSame(context.req.header('authorization') ?? '', `Bearer ${options.token}`)) return refuse(context, 401, 'The token is missing or wrong.');
    await next();
  });
  app.get('/', (context) =>
    context.json({ name: 'stand-in farm', version: RENDER_SERVICE_VERSION, command: USUAL_COMMAND, tokens: ['frame', 'folder'] } satisfies ServiceDescription),
  );
  app.get('/machines', (context) => context.json(farm.machines()));
  app.post('/machines/:name/control', (context) => read(context, machineControlSchema, (control) => farm.controlMachine(context.req.param('name'), control)));
  app.get('/tasks', (context) => context.json(farm.list()));
  app.put('/tasks/:id', (context) =>
    read(context, renderTaskRequestSchema, (request) => {
      const folder = path.resolve(request.folder);
      const limit = path.isAbsolute(request.folder) ? options.folders.find((one) => isInside(one, folder)) : undefined;
      if (limit === undefined)
        throw new MintError('folder', `The farm does not write into ${request.folder}.`, { remedy: `It writes below ${options.folders.join(', ')}.` });
      // Made where it is missing, and never behind a link that leads out.
      HeldFolder.open(limit, path.relative(limit, folder)).close();
      farm.takeTask(context.req.param('id'), request);
    }),
  );
  app.get('/tasks/:id', (context) => context.json(farm.status(context.req.param('id'), Number(context.req.query('after') ?? 0) || 0)));
  app.post('/tasks/:id/control', (context) => read(context, renderTaskControlSchema, (control) => farm.control(context.req.param('id'), control)));
  app.notFound((context) => refuse(context, 404, `There is nothing at ${context.req.path}.`));
  app.onError((thrown, context) => {
    if (thrown instanceof MintError) return refuse(context, STATUS[thrown.code] ?? 400, thrown.message, thrown.remedy);
    console.error(thrown);
    return refuse(context, 500, 'The farm has failed; its own output says how.');
  });
  return app;
}

/** Serves the farm on loopback. Port 0 takes a free one. @returns the address, and what ends it */
export async function serveFarm(
  farm: Farm,
  options: { token: string; folders: readonly string[]; port: number },
): Promise<{ url: string; close: () => Promise<void> }> {
  const app = makeInterface(farm, options);
  const server = serve({ fetch: app.fetch, hostname: '127.0.0.1', port: options.port });
  await new Promise<void>((resolve, reject) => {
    server.once('listening', resolve);
    server.once('error', reject);
  });
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : options.port;
  return {
    url: `http://127.0.0.1:${port}`,
    close: async () => {
      const closed = new Promise<void>((resolve) => server.close(() => resolve()));
      if ('closeAllConnections' in server) server.closeAllConnections();
      await closed;
      await farm.close();
    },
  };
}

async function read<Schema extends z.ZodType>(context: Context, schema: Schema, use: (value: z.output<Schema>) => void): Promise<Response> {
  const parsed = schema.safeParse(await context.req.json().catch(() => null));
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    return refuse(context, 400, `${issue.path.join('.') || 'The body'}: ${issue.message}`);
  }
  use(parsed.data);
  return context.body(null, 204);
}

function refuse(context: Context, status: 400 | 401 | 404 | 409 | 500, message: string, remedy = ''): Response {
  return context.json({ message, remedy }, status);
}

function isSame(given: string, wanted: string): boolean {
  const [a, b] = [Buffer.from(given), Buffer.from(wanted)];
  return a.length === b.length && timingSafeEqual(a, b);
}
