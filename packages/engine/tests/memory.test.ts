import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setImmediate as turn } from 'node:timers/promises';
import zlib from 'node:zlib';
import { encodeExr, encodePng, memoryToInspect, memorySource } from '@mint-tally/core';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pngBytes } from '../../../tests/support/frames.ts';
import { InspectionPool } from '../src/index.ts';
import type { InspectionResult } from '../src/inspection/inspect-tasks.ts';
import { MemoryBudget } from '../src/inspection/memory-budget.ts';

let top: string;
beforeAll(() => (top = mkdtempSync(path.join(os.tmpdir(), 'mint-memory-'))));
afterAll(() => rmSync(top, { recursive: true, force: true }));

const tools = { deflate: (data: Uint8Array) => zlib.deflateSync(data), crc32: (data: Uint8Array) => zlib.crc32(data) };

async function look(names: readonly string[], memory: number): Promise<Map<string, InspectionResult>> {
  const pool = new InspectionPool(4, memory);
  const found = new Map<string, InspectionResult>();
  await pool.inspectAll(
    names.map((name) => ({ folder: top, path: name, level: 'full' as const, proxies: null })),
    (task, result) => void found.set(task.path, result),
  );
  await pool.close();
  return found;
}

describe('memory for all workers together', () => {
  it('is never given out beyond what there is, and everybody gets a turn', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.integer({ min: 0, max: 40 }), { maxLength: 30 }), async (wishes) => {
        const megabyte = 1 << 20;
        const budget = new MemoryBudget(MemoryBudget.share(40 * megabyte));
        let used = 0;
        let served = 0;
        await Promise.all(
          wishes.map(async (wish) => {
            const giveBack = await budget.take(wish * megabyte);
            used += wish;
            expect(used).toBeLessThanOrEqual(40);
            for (let i = 0; i < wish % 4; i++) await turn();
            used -= wish;
            served++;
            giveBack();
          }),
        );
        expect(served).toBe(wishes.length);
      }),
      { numRuns: 50 },
    );
  });

  it('is reckoned with the pixels that the header promises, however small the file', () => {
    const flat = encodePng({ width: 4000, height: 3000, samplesPerPixel: 3, data: new Uint8Array(4000 * 3000 * 3) }, tools);
    expect(flat.length).toBeLessThan(200_000);
    expect(memoryToInspect(memorySource(flat), 'flat.png')).toBe(flat.length + 2 * 4000 * 3000 * 3);
    const window = [0, 0, 99, 49] as const;
    const exr = encodeExr(
      {
        dataWindow: window,
        displayWindow: window,
        pixelAspect: 1,
        compression: 'zip',
        channels: [
          { name: 'R', type: 'half', data: new Uint16Array(5000) },
          { name: 'Z', type: 'float', data: new Float32Array(5000) },
        ],
        metadata: {},
      },
      tools,
    );
    expect(memoryToInspect(memorySource(exr), 'x.exr')).toBe(exr.length + 2 * 5000 * 6);
    expect(memoryToInspect(memorySource(Buffer.from('no picture at all')), 'x.exr')).toBe(17);
    // A header that promises more than any packing could hold is not believed.
    const lies = Buffer.from(flat.subarray(0, 60));
    expect(memoryToInspect(memorySource(lies), 'lies.png')).toBe(60);
  });
});

describe('a file that could never fit', () => {
  it('is not examined, which is said with its size; its checksum is known all the same', async () => {
    const names = ['a.png', 'b.png', 'c.png', 'd.png'];
    for (const name of names) {
      writeFileSync(path.join(top, name), pngBytes(5));
      // Sparse: it takes no room on the disk.
      truncateSync(path.join(top, name), 400 << 20);
    }
    const before = process.memoryUsage.rss();
    let most = before;
    const watch = setInterval(() => (most = Math.max(most, process.memoryUsage.rss())), 20);
    const found = await look(names, 200e6);
    clearInterval(watch);
    for (const name of names) {
      const { facts, sha256 } = found.get(name)!;
      expect(facts.notExamined).toMatch(/^The file has 419 MB, and would take 419 MB to look into; 200 MB are set for that\./);
      expect(facts.level).toBe('full');
      expect(sha256).toBe(
        createHash('sha256')
          .update(readFileSync(path.join(top, name)))
          .digest('hex'),
      );
      rmSync(path.join(top, name));
    }
    expect(most - before).toBeLessThan(400e6);
  });

  it('does not keep others from being looked at, which wait their turn', async () => {
    const picture = (seed: number) =>
      encodePng({ width: 1500, height: 1000, samplesPerPixel: 3, data: Uint8Array.from({ length: 4_500_000 }, (_, i) => (i * seed) >>> 5) }, tools);
    const names = Array.from({ length: 8 }, (_, i) => `turn.${i}.png`);
    for (const [i, name] of names.entries()) writeFileSync(path.join(top, name), picture(i + 1));
    writeFileSync(path.join(top, 'huge.png'), pngBytes(1));
    truncateSync(path.join(top, 'huge.png'), 300 << 20);
    // Room for one of them at a time.
    const found = await look([...names.slice(0, 4), 'huge.png', ...names.slice(4)], 16e6);
    for (const name of names) expect(found.get(name)!.facts).toMatchObject({ problem: null, notExamined: null });
    expect(found.get('huge.png')!.facts.notExamined).not.toBeNull();
  });
});

describe('a picture that cannot be kept', () => {
  it('is told, and the frame is known all the same', async () => {
    writeFileSync(path.join(top, 'seen.png'), pngBytes(9));
    writeFileSync(path.join(top, 'in-the-way'), 'no folder');
    const pool = new InspectionPool(1, 1e9);
    const found: InspectionResult[] = [];
    const proxies = { folder: path.join(top, 'in-the-way', 'proxies'), layers: [{ key: '', channels: null }] };
    await pool.inspectAll([{ folder: top, path: 'seen.png', level: 'full', proxies }], (_, result) => void found.push(result));
    await pool.close();
    expect(found[0].facts).toMatchObject({ problem: null, header: { width: 32 } });
    expect(found[0].sha256).not.toBeNull();
    expect(found[0].pictureProblem).toContain('is not there');
  });
});

describe('what else a file may claim', () => {
  it('a time beyond every calendar is kept as what it is', async () => {
    writeFileSync(path.join(top, 'late.png'), pngBytes(1));
    utimesSync(path.join(top, 'late.png'), 1e10, 1e10);
    expect((await look(['late.png'], 1e9)).get('late.png')!.facts.problem).toBeNull();
  });

  it('metadata of megabytes is kept within bounds, which is said', async () => {
    const notes = Array.from({ length: 3000 }, (_, i) => Buffer.concat([Buffer.from(`note${i}\0string\0`), lengthOf(3000), Buffer.alloc(3000, 'x')]));
    const window = [0, 0, 7, 7] as const;
    const plain = Buffer.from(
      encodeExr(
        {
          dataWindow: window,
          displayWindow: window,
          pixelAspect: 1,
          compression: 'none',
          channels: [{ name: 'Y', type: 'half', data: new Uint16Array(64) }],
          metadata: { camera: 'keeper' },
        },
        tools,
      ),
    );
    // Behind the magic number and the version the attributes begin; the table of chunks moves by what is put in.
    const moved = moveTable(plain, Buffer.concat(notes));
    writeFileSync(path.join(top, 'notes.exr'), moved);
    const { facts } = (await look(['notes.exr'], 1e9)).get('notes.exr')!;
    expect(facts.problem).toBeNull();
    const { metadata } = facts.header!;
    expect(moved.length).toBeGreaterThan(9_000_000);
    expect(metadata.note0).toMatch(/^x{1000} … \(3000 characters\)$/);
    expect(metadata['(left out)']).toMatch(/^29\d\d more entries$/);
    expect(JSON.stringify(facts).length).toBeLessThan(80_000);
  });
});

function lengthOf(value: number): Buffer {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(value);
  return bytes;
}

/** An EXR of one block of scan lines with an attribute more: what stands behind it in the file begins later. */
function moveTable(exr: Buffer, attribute: Buffer): Buffer {
  const moved = Buffer.concat([exr.subarray(0, 8), attribute, exr.subarray(8)]);
  const lines = 8;
  // The header ends with an empty name; the table of offsets follows at once, 8 bytes a line (no compression).
  const firstOffset = Number(exr.readBigUInt64LE(exr.length - lines * (8 + 16) - lines * 8));
  const table = exr.length - lines * (8 + 16) - lines * 8 + attribute.length;
  expect(firstOffset).toBe(table - attribute.length + lines * 8);
  for (let line = 0; line < lines; line++) moved.writeBigUInt64LE(moved.readBigUInt64LE(table + line * 8) + BigInt(attribute.length), table + line * 8);
  return moved;
}
