import { afterEach, describe, expect, it, vi } from 'vitest';
import { askServer } from '$lib/asking/ask-server';

const answers = (body: string, status = 200) => vi.stubGlobal('fetch', vi.fn().mockResolvedValue(new Response(body, { status })));
const told = async () => {
  const answer = await askServer('/shots/1/measure', 'POST', { samples: [4] });
  return answer.ok ? null : answer;
};

afterEach(() => vi.unstubAllGlobals());

describe('asking the server', () => {
  it('sends JSON and gives what came back', async () => {
    answers('{"jobId":7}');
    expect(await askServer('/shots/1/measure', 'POST', { samples: [4] })).toEqual({ ok: true, value: { jobId: 7 } });
    expect(fetch).toHaveBeenCalledWith('/shots/1/measure', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{"samples":[4]}' });
    answers('null');
    expect(await askServer('/shots/1/batch/live', 'GET')).toEqual({ ok: true, value: null });
    expect(fetch).toHaveBeenCalledWith('/shots/1/batch/live', { method: 'GET' });
  });

  it('tells why it was refused, and at which fields', async () => {
    answers('{"message":"A batch goes on.","remedy":"Stop it first."}', 409);
    expect(await told()).toEqual({ ok: false, refused: 'A batch goes on. Stop it first.', fields: {} });
    answers('{"message":"No name.","fields":{"name":"A name is needed"}}', 400);
    expect(await told()).toEqual({ ok: false, refused: 'No name.', fields: { name: 'A name is needed' } });
  });

  it('tells a server that is away, breaks off, or says nothing that can be read', async () => {
    vi.stubGlobal('fetch', vi.fn().mockRejectedValue(new TypeError('Failed to fetch')));
    expect((await told())?.refused).toMatch(/does not answer/);
    answers('<html>Bad Gateway</html>', 502);
    expect((await told())?.refused).toMatch(/status 502/);
    answers('{"trouble":true}', 500);
    expect((await told())?.refused).toMatch(/status 500 and did not say why/);
  });
});
