import { request as nodeRequest } from 'node:http';
import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { writeSequence } from '../support/frames.ts';
import { expect, test } from './application.ts';

test.use({ instance: 'trust' });

/** A request with headers that a browser would not let a page set. */
function rawRequest(
  address: string,
  options: { path?: string; method?: string; headers: Record<string, string> },
): Promise<{ status: number; location: string | undefined }> {
  const url = new URL(address);
  return new Promise((resolve, reject) => {
    const request = nodeRequest(
      { host: '127.0.0.1', port: url.port, path: options.path ?? '/', method: options.method ?? 'GET', headers: options.headers },
      (response) => {
        response.resume();
        resolve({ status: response.statusCode!, location: response.headers.location });
      },
    );
    request.on('error', reject);
    request.end();
  });
}

test.describe('folders', () => {
  test.beforeAll(({ application }) => {
    mkdirSync(path.join(application.top, 'secret', 'treasure'), { recursive: true });
    writeSequence(path.join(application.top, 'secret'), 1, 3);
    writeFileSync(path.join(application.top, 'secret', 'key.txt'), 'secret');
    symlinkSync(path.join(application.top, 'secret'), path.join(application.shots, 'out'));
  });

  const tricks = [
    '..',
    '../secret',
    'x/../../secret',
    '%2e%2e',
    '%2e%2e%2fsecret',
    '..%2fsecret',
    '/etc',
    'out',
    'out/treasure',
    './../secret',
    '....//secret',
    '..\\secret',
    '\0/etc',
    '\u2024\u2024/secret',
  ];
  for (const trick of tricks) {
    test(`outside the roots are not read: ${JSON.stringify(trick)}`, async ({ request }) => {
      for (const route of ['folders', 'proposal']) {
        for (const query of [
          new URLSearchParams({ root: 'shots', path: trick }).toString(),
          `root=shots&path=${trick.replace('\0', '%00').replaceAll('\\', '%5c')}`,
        ]) {
          const response = await request.get(`/api/${route}?${query}`);
          expect([400, 403, 404]).toContain(response.status());
          expect(Object.keys(await response.json()).sort()).toEqual(['message', 'remedy']);
        }
      }
    });
  }

  test('links that lead out of a root are not even shown', async ({ request }) => {
    const view = await (await request.get('/api/folders?root=shots')).json();
    expect(view.folders).not.toContain('out');
  });

  test('unknown roots, and requests that are none, are refused with words', async ({ request }) => {
    expect((await request.get('/api/folders?root=etc')).status()).toBe(404);
    for (const address of [
      '/api/folders',
      '/api/proposal?path=x',
      '/shots/1/frame?pass=beauty&frame=x',
      '/shots/1/still?pass=a&path=b&v=..',
      '/jobs/x/cancel',
    ]) {
      const response = address.endsWith('cancel') ? await request.post(address) : await request.get(address);
      expect([400, 404]).toContain(response.status());
      expect((await response.json()).message).toBeTruthy();
    }
    expect((await request.get('/shots/0/tally')).status()).toBe(404);
    expect((await request.get('/shots/999/tally')).status()).toBe(404);
  });
});

test.describe('pages of others', () => {
  test('cannot reach the server under another name', async ({ application }) => {
    expect((await rawRequest(application.address, { headers: { host: 'evil.example' } })).status).toBe(403);
    const { port } = new URL(application.address);
    expect(await rawRequest(application.address, { headers: { host: `localhost:${port}` } })).toMatchObject({
      status: 307,
      location: `${application.address}/`,
    });
  });

  test('cannot send forms or requests', async ({ application }) => {
    const host = new URL(application.address).host;
    const form = { host, origin: 'http://evil.example', 'content-type': 'application/x-www-form-urlencoded' };
    expect((await rawRequest(application.address, { path: '/shots/1/tally?/count', method: 'POST', headers: form })).status).toBe(403);
    expect((await rawRequest(application.address, { path: '/jobs/1/cancel', method: 'POST', headers: { host, origin: 'http://evil.example' } })).status).toBe(
      403,
    );
  });
});

test.describe('the door', () => {
  const statusOf = async (address: string, path: string, headers: Record<string, string>, method = 'GET') =>
    (await rawRequest(address, { path, method, headers: { host: new URL(address).host, ...headers } })).status;

  test('stands before static files as well', async ({ application, request }) => {
    const [, script] = /href="\.?(\/_app\/immutable\/[^"]+)"/.exec(await (await request.get('/')).text())!;
    for (const file of ['/favicon.svg', script]) {
      expect(await statusOf(application.address, file, {})).toBe(200);
      expect(await statusOf(application.address, file, { host: 'evil.example' })).toBe(403);
      const headers = (await request.get(file)).headers();
      expect(headers['cross-origin-resource-policy']).toBe('same-origin');
      expect(headers['cross-origin-opener-policy']).toBe('same-origin');
      expect(headers['x-frame-options']).toBe('DENY');
    }
  });

  test('lets a link be followed from elsewhere, and nothing be taken or shown there', async ({ application: { address } }) => {
    const visit = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
    expect(await statusOf(address, '/', visit)).toBe(200);
    expect(await statusOf(address, '/', { 'sec-fetch-site': 'none', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' })).toBe(200);
    for (const dest of ['iframe', 'image', 'script', 'empty']) {
      expect(await statusOf(address, '/api/folders?root=shots', { ...visit, 'sec-fetch-dest': dest })).toBe(403);
      expect(await statusOf(address, '/', { 'sec-fetch-site': 'same-site', 'sec-fetch-mode': 'no-cors', 'sec-fetch-dest': dest })).toBe(403);
    }
    expect(await statusOf(address, '/theme', { ...visit, 'content-type': 'application/json' }, 'POST')).toBe(403);
    expect(await statusOf(address, '/api/folders?root=shots', { 'sec-fetch-site': 'same-origin', 'sec-fetch-mode': 'cors', 'sec-fetch-dest': 'empty' })).toBe(
      200,
    );
  });

  test('says in words what is too large, and takes a batch of a hundred thousand frames', async ({ application, request }) => {
    const huge = await request.fetch('/shots/1/batch/control', {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      data: Buffer.alloc(65_000_000, 32),
    });
    expect(huge.status()).toBe(413);
    expect(await huge.json()).toEqual({
      message: 'What was sent is too large: 65 MB, and at most 64 MB are taken.',
      remedy: 'Send it in parts: fewer frames, or fewer shots, at a time.',
    });
    expect(application.address).toBeTruthy();
    const frames = Array.from({ length: 100_000 }, (_, i) => i + 1);
    const settings = { priority: 0, badInRow: 3, stopBadMachine: true, chunk: 8 };
    const batch = { service: null, command: [], passes: ['beauty'], settings, overwrite: false, shares: [{ machine: 'bowline', frames }] };
    const answer = await request.put('/shots/999/batch/control', { data: batch });
    expect((await answer.json()).message).toBe('There is no such shot.');
  });

  test('requests that are no JSON are answered with words', async ({ request }) => {
    for (const address of [
      '/theme',
      '/api/specifications',
      '/shots/1/duplicate',
      '/shots/1/measure',
      '/shots/1/batch/control',
      '/shots/1/batch/merge/control',
    ]) {
      const answer = await request.post(address, { headers: { 'content-type': 'application/json' }, data: '{"half":' });
      expect(answer.status(), address).toBe(400);
      expect((await answer.json()).message, address).toBeTruthy();
    }
  });
});

test('pages carry a policy that lets in no foreign script', async ({ request }) => {
  const { 'content-security-policy': policy, 'x-content-type-options': sniff } = (await request.get('/')).headers();
  expect(policy).toContain("default-src 'self'");
  expect(policy).not.toContain("script-src 'self' 'unsafe-inline'");
  expect(sniff).toBe('nosniff');
});
