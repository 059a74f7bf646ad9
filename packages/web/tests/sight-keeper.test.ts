import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { SightKeeper } from '$lib/view/sight-keeper.svelte';

const sight = (frame: number, parts = 1) => ({ frame, content: '0123456789abcdef', way: 'full' as const, parts });
let keeper: SightKeeper;
const told: unknown[] = [];
const sent = () =>
  vi
    .mocked(fetch)
    .mock.calls.map(([address, init]) => ({ address, ...(JSON.parse(init!.body as string) as { pass: string; person: string; sights: object[] }) }));
const answers = (status: number) =>
  vi.stubGlobal(
    'fetch',
    vi.fn().mockImplementation(() => Promise.resolve(new Response('{"message":"No.","eyes":[]}', { status }))),
  );

beforeEach(() => {
  vi.useFakeTimers();
  answers(200);
  keeper = new SightKeeper(
    () => 'Ada',
    (shotId, eyes) => told.push([shotId, eyes.length]),
  );
  told.length = 0;
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('what was seen', () => {
  it('goes to the server by and by, each frame once with all of its parts, each pass apart', async () => {
    keeper.note(7, 'beauty', sight(1, 1));
    keeper.note(7, 'beauty', sight(1, 2));
    keeper.note(7, 'depth', sight(1));
    expect(fetch).not.toHaveBeenCalled();
    await vi.advanceTimersByTimeAsync(10_000);
    expect(sent()).toEqual([
      { address: '/shots/7/sights', pass: 'beauty', person: 'Ada', sights: [sight(1, 3)] },
      { address: '/shots/7/sights', pass: 'depth', person: 'Ada', sights: [sight(1)] },
    ]);
  });

  it('is not sent twice, and nothing is asked when nothing was seen', async () => {
    keeper.note(7, 'beauty', sight(1));
    await Promise.all([keeper.send(), keeper.send()]);
    await keeper.send();
    expect(fetch).toHaveBeenCalledTimes(1);
  });

  it('is kept while the server refuses or is away, said so, and sent together with what comes', async () => {
    answers(503);
    keeper.note(7, 'beauty', sight(1));
    await keeper.send();
    expect(keeper.problem).toBe('No.');
    answers(200);
    keeper.note(7, 'beauty', sight(2));
    await vi.advanceTimersByTimeAsync(10_000);
    expect(sent().map(({ sights }) => sights)).toEqual([[sight(1), sight(2)]]);
    expect([keeper.problem, told]).toEqual(['', [[7, 0]]]);
  });

  it('that comes while others are sent goes after them', async () => {
    keeper.note(7, 'beauty', sight(1));
    const first = keeper.send();
    keeper.note(7, 'beauty', sight(2));
    await Promise.all([first, keeper.send()]);
    expect(sent().map(({ sights }) => sights)).toEqual([[sight(1)], [sight(2)]]);
  });

  it('goes in pieces that the route takes', async () => {
    for (let frame = 0; frame < 12_000; frame++) keeper.note(7, 'beauty', sight(frame));
    await keeper.send();
    expect(sent().map(({ sights }) => sights.length)).toEqual([5000, 5000, 2000]);
  });

  it('goes along when the page is left', () => {
    const sendBeacon = vi.fn().mockReturnValue(true);
    vi.stubGlobal('navigator', { sendBeacon });
    keeper.note(7, 'beauty', sight(1));
    keeper.sendAway();
    keeper.sendAway();
    expect(sendBeacon).toHaveBeenCalledTimes(1);
    expect(sendBeacon.mock.calls[0]![0]).toBe('/shots/7/sights');
  });
});
