import { writePictureMessage, type SentPicture } from '@mint-tally/core';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Course } from '$lib/view/course';
import { PictureCache } from '$lib/view/picture-cache.svelte';

/** A picture of so many bytes of samples. */
function message(bytes: number): Uint8Array<ArrayBuffer> {
  const info: SentPicture['info'] = {
    format: 'png',
    type: 'u8',
    channels: ['Y'],
    all: ['Y'],
    left: 0,
    top: 0,
    width: bytes,
    height: 1,
    reduce: 1,
    full: [bytes, 1],
    dataWindow: [0, 0, bytes - 1, 0],
    displayWindow: [0, 0, bytes - 1, 0],
    pixelAspect: 1,
    alphaKind: null,
    damage: [],
    problem: '',
  };
  return writePictureMessage({ info, samples: new Uint8Array(bytes) });
}
const SIZE = message(1000).length;

/** Requests that wait until they are answered. */
const asked: { address: string; signal: AbortSignal; answer: (response: Response) => void; fail: (error: Error) => void }[] = [];
const waiting = () => asked.filter(({ signal }) => !signal.aborted).map(({ address }) => address);
const answerAll = async () => {
  while (asked.length > 0) {
    for (const { signal, answer } of asked.splice(0)) if (!signal.aborted) answer(new Response(message(1000)));
    await settle();
  }
};
const settle = () => new Promise((resolve) => setTimeout(resolve, 5));

beforeEach(() => {
  asked.length = 0;
  vi.stubGlobal('fetch', (address: string, { signal }: { signal: AbortSignal }) => {
    return new Promise<Response>((answer, fail) => {
      asked.push({ address, signal, answer, fail });
      signal.addEventListener('abort', () => fail(new DOMException('given up', 'AbortError')));
    });
  });
});
afterEach(() => vi.unstubAllGlobals());

const addresses = (column: number) => `/picture?${column}`;
const heldOf = (cache: PictureCache, count = 100) => Array.from({ length: count }, (_, column) => column).filter((column) => cache.has(column));

describe('pictures in memory', () => {
  it('are fetched from the playhead on in the direction of play, and around', async () => {
    const cache = new PictureCache(100 * SIZE);
    cache.look(2, -1, Course.stretch(0, 9));
    cache.source('a', addresses);
    expect(waiting()).toEqual(['/picture?2', '/picture?1', '/picture?0', '/picture?9']);
    await answerAll();
    expect(heldOf(cache)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
    expect([cache.count, cache.held, cache.capacity]).toEqual([10, 10 * SIZE, 100]);
  });

  it('never take more than the budget, and those that are needed last go first', async () => {
    const cache = new PictureCache(4 * SIZE);
    cache.look(0, 1, Course.stretch(0, 99));
    cache.source('a', addresses);
    await answerAll();
    expect(heldOf(cache)).toEqual([0, 1, 2, 3]);
    cache.look(2, 1, Course.stretch(0, 99));
    await answerAll();
    expect(heldOf(cache)).toEqual([2, 3, 4, 5]);
    expect(cache.held).toBeLessThanOrEqual(cache.budget);
    cache.setBudget(2 * SIZE);
    expect([heldOf(cache), cache.held]).toEqual([[2, 3], 2 * SIZE]);
  });

  it('elsewhere are given up when the playhead jumps', async () => {
    const cache = new PictureCache(6 * SIZE);
    cache.look(0, 1, Course.stretch(0, 99));
    cache.source('a', addresses);
    asked.shift()!.answer(new Response(message(1000)));
    await settle();
    cache.look(50, 1, Course.stretch(0, 99));
    await settle();
    expect(waiting()).toEqual(['/picture?50', '/picture?51', '/picture?52', '/picture?53']);
  });

  it('come for a playhead that goes on faster than they do, as many as can, in time for their turn', async () => {
    for (const [budget, loops] of [
      [20, 1],
      [400, 1],
      [400, 3],
    ] as const) {
      asked.length = 0;
      const cache = new PictureCache(budget * SIZE);
      cache.look(0, 1, Course.stretch(0, 99));
      cache.source('a', addresses);
      const since = new Map<string, number>();
      let inTime = 0;
      for (let turn = 0; turn < 100 * loops; turn++) {
        cache.look(turn % 100, 1, Course.stretch(0, 99), true);
        if (cache.has(turn % 100)) inTime++;
        for (const { address } of asked) if (!since.has(address)) since.set(address, turn);
        // Each takes as long as six frames; four are under way, so two of three can come.
        const done = asked.filter(({ address }) => turn - since.get(address)! >= 6);
        for (const { answer, address, signal } of done) {
          since.delete(address);
          if (!signal.aborted) answer(new Response(message(1000)));
        }
        asked.splice(0, asked.length, ...asked.filter((one) => !done.includes(one) && !one.signal.aborted));
        await settle();
      }
      // From memory, once all has been seen.
      expect(inTime / (100 * loops)).toBeGreaterThan(loops === 1 ? 0.4 : 0.75);
    }
    // Hundreds of turns, each with the page's own pauses: a slow machine takes seconds.
  }, 30_000);

  it('stay when the list is read anew, but for those that are others now', async () => {
    const cache = new PictureCache(100 * SIZE);
    cache.look(0, 1, Course.stretch(0, 3));
    cache.source('a', addresses);
    await answerAll();
    cache.source('a', (column) => (column === 2 ? '/picture?2&new' : addresses(column)));
    expect([heldOf(cache), waiting()]).toEqual([[0, 1, 3], ['/picture?2&new']]);
    await answerAll();
    cache.source('another pass', addresses);
    expect(heldOf(cache)).toEqual([]);
  });

  it('that are refused say why, once; a frame without a file is not asked for', async () => {
    const cache = new PictureCache(100 * SIZE);
    cache.look(0, 1, Course.stretch(0, 1));
    cache.source('a', (column) => (column === 1 ? null : addresses(column)));
    expect(waiting()).toEqual(['/picture?0']);
    asked.shift()!.answer(Response.json({ message: 'It is cut short.' }, { status: 400 }));
    await settle();
    expect([cache.get(0), cache.get(1), waiting()]).toEqual([{ why: 'It is cut short.' }, null, []]);
  });

  it('are asked for again when the server was away', async () => {
    vi.useFakeTimers();
    try {
      const cache = new PictureCache(100 * SIZE);
      cache.look(0, 1, Course.stretch(0, 0));
      cache.source('a', addresses);
      asked.shift()!.fail(new TypeError('fetch failed'));
      await vi.advanceTimersByTimeAsync(10);
      expect([cache.isAway, cache.get(0), waiting()]).toEqual([true, null, []]);
      await vi.advanceTimersByTimeAsync(3000);
      expect([cache.isAway, waiting()]).toEqual([false, ['/picture?0']]);
      cache.close();
    } finally {
      vi.useRealTimers();
    }
  });
});
