import { describe, expect, it } from 'vitest';
import { inspectFrameFile, memorySource, SharedParts, type FileFacts } from '../src/index.ts';
import { movingFrame } from './moving-shot.ts';
import { fixture, tools } from './tools.ts';

const look = (bytes: Uint8Array, name: string): FileFacts => inspectFrameFile(memorySource(bytes), name, 'full', tools).facts;

describe('facts that share what is the same', () => {
  const metadata = { hostComputer: 'reef', software: 'orrery 2.1' };
  const frames = [1, 2, 3].map((seed) => look(movingFrame({ at: 0.3 + seed / 50, seed, metadata }), `a.${seed}.exr`));

  it('are the facts as they were', () => {
    const parts = new SharedParts();
    for (const facts of [...frames, look(fixture('png/rgb8.png'), 'a.png'), look(new Uint8Array(20), 'a.png')]) expect(parts.share(facts)).toEqual(facts);
  });

  it('hold one list of channels, one window and one set of notes along a pass', () => {
    const parts = new SharedParts();
    const [first, ...others] = frames.map((facts) => parts.share(facts).header!);
    for (const header of others) {
      for (const part of ['channels', 'dataWindow', 'displayWindow', 'metadata'] as const) expect(header[part]).toBe(first[part]);
    }
  });

  it('keep apart what differs by a little', () => {
    const parts = new SharedParts();
    const other = look(movingFrame({ at: 0.5, seed: 9, metadata: { ...metadata, hostComputer: 'clove' } }), 'a.9.exr');
    const [one, two] = [parts.share(frames[0]).header!, parts.share(other).header!];
    expect(two.metadata).not.toBe(one.metadata);
    expect(two.metadata.hostComputer).toBe('clove');
    expect(two.channels).toBe(one.channels);
  });

  it('stay right when every file has notes of its own, more than are remembered', () => {
    const parts = new SharedParts();
    for (let i = 0; i < 2500; i++) {
      const facts: FileFacts = { ...frames[0], header: { ...frames[0].header!, metadata: { timecode: i } } };
      expect(parts.share(facts).header!.metadata.timecode).toBe(i);
    }
  });
});
