import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { inspectFrameFile, memorySource, type DecodedFrame } from '@mint-tally/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { codecTools } from '../src/inspection/codec-tools.ts';
import { projectFolder, proxyPath, writeProxy } from '../src/index.ts';

const whole = { key: '', channels: null };

function decoded(bytes: Uint8Array, name: string): DecodedFrame {
  const { facts, frame } = inspectFrameFile(memorySource(bytes), name, 'full', codecTools);
  expect(facts.problem).toBeNull();
  return frame!;
}

describe('a kept picture', () => {
  let folder: string;
  beforeAll(() => {
    folder = mkdtempSync(path.join(os.tmpdir(), 'mint-proxy-'));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  it('is a WebP of the reference frame, made once, nothing half made beside it', async () => {
    const file = path.join(projectFolder(), 'packages/core/fixtures/exr/window_half_zip.exr');
    const frame = decoded(readFileSync(file), 'window.exr');
    const sha256 = 'ab'.repeat(32);
    await writeProxy(folder, sha256, whole, frame);
    const target = proxyPath(folder, sha256, whole);
    const first = readFileSync(target);
    await writeProxy(folder, sha256, whole, frame);
    expect(readFileSync(target).equals(first)).toBe(true);
    expect(readdirSync(path.dirname(target))).toHaveLength(1);
    expect(await sharp(target).metadata()).toMatchObject({ format: 'webp', width: frame.header.width, height: frame.header.height });
  });
});
