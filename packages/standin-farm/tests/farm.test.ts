import zlib from 'node:zlib';
import { halfToFloat, inspectFrameFile, memorySource, type CodecTools } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { demoShots, encodePasses, planShot, renderFrame } from '../src/index.ts';

const quality = { width: 48, height: 27, samples: 2 };
const tools: CodecTools = { inflate: (data, maxOutputLength) => zlib.inflateSync(data, { maxOutputLength }), crc32: (data) => zlib.crc32(data) };
const [task] = planShot(demoShots[0], '/nowhere', quality);

describe('a rendered frame', () => {
  it('is the same for the same seed, and another for another', () => {
    const bytes = (seed: number) =>
      task.files.map((file) => Buffer.from(encodePasses(renderFrame({ ...task.settings, seed }), [file], task.notes)).toString('base64'));
    expect(bytes(1)).toEqual(bytes(1));
    expect(bytes(1)[0]).not.toBe(bytes(2)[0]);
  });

  it('loops: the frame after the last is the first, but for its noise', () => {
    const turn = demoShots.find((shot) => shot.name === 'orr_030')!;
    const at = (time: number) => renderFrame({ ...task.settings, view: turn.view, time }).depth;
    const [first, after] = [at(0), at(1)];
    expect(Math.max(...first.map((depth, i) => Math.abs(depth - after[i]) / depth))).toBeLessThan(1e-4);
  });

  it('has finite light, unit normals and depths in front of the camera', () => {
    const { beauty, normal, depth } = renderFrame(task.settings);
    expect(beauty.every((value) => Number.isFinite(value) && value >= 0)).toBe(true);
    for (let i = 0; i < depth.length; i++) {
      expect(depth[i]).toBeGreaterThan(0);
      if (depth[i] < 1e9) expect(Math.hypot(normal[i * 3], normal[i * 3 + 1], normal[i * 3 + 2])).toBeCloseTo(1, 5);
    }
  });

  it('comes back from its EXR file as it was rendered, to the precision of the file', () => {
    const frame = renderFrame(task.settings);
    const bytes = encodePasses(frame, [task.files[0]], task.notes);
    const { facts, frame: decoded } = inspectFrameFile(memorySource(bytes), 'a.exr', 'full', tools);
    expect(facts).toMatchObject({
      problem: null,
      header: { width: 48, height: 27, compression: 'zip', metadata: { hostComputer: 'bowline', samples: 2, frame: 1001 } },
    });
    const red = decoded!.planes.find((plane) => plane.channel === 'R')!;
    for (let i = 0; i < 48 * 27; i++) {
      const wanted = frame.beauty[i * 4];
      expect(Math.abs(halfToFloat(red.data[i]) - wanted)).toBeLessThanOrEqual(wanted * 2 ** -11 + 1e-7);
    }
  });
});
