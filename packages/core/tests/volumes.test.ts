import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { narrowBrief, parseBrief, parseFrameRange, splitIntoVolumes, workOutOrder } from '../src/index.ts';

const brief = parseBrief({
  ...{ shot: 'orr_010', range: '1001-1040', handles: [4, 4] },
  passes: [
    { name: 'beauty', pattern: 'b.####.exr' },
    { name: 'albedo', pattern: 'b.####.exr' },
    { name: 'depth', pattern: 'd.####.exr', range: '1010-1030x2' },
  ],
});

describe('volumes', () => {
  it('hold every ordered frame once, in order, none above its size but a frame that is larger by itself', () => {
    const order = workOutOrder(brief);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 900 }), { minLength: 41, maxLength: 41 }), fc.integer({ min: 1, max: 5000 }), (sizes, most) => {
        const sizeOf = (path: string) => sizes[Number(/\d{4}/.exec(path)![0]) % 41]! * (path.startsWith('d') ? 2 : 1);
        const bytesOf = (frame: number) => sizeOf(`b.${frame}.exr`) + (order.passes[2]!.frames.has(frame) ? sizeOf(`d.${frame}.exr`) : 0);
        const volumes = splitIntoVolumes(order, sizeOf, most);
        expect(volumes.flatMap((volume) => [...volume])).toEqual([...order.frames]);
        volumes.forEach((volume, i) => {
          const bytes = [...volume].reduce((sum, frame) => sum + bytesOf(frame), 0);
          expect(bytes <= most || volume.size === 1).toBe(true);
          // None is begun before the one before it is full.
          if (i > 0) expect([...volumes[i - 1]!].reduce((sum, frame) => sum + bytesOf(frame), bytesOf(volume.first!))).toBeGreaterThan(most);
        });
      }),
    );
  });

  it('have a brief that orders just what is in them', () => {
    const narrowed = narrowBrief(brief, ['beauty', 'depth'], parseFrameRange('1001-1012'));
    expect(narrowed).toMatchObject({ range: '1001-1012', passes: [{ name: 'beauty' }, { name: 'depth', range: '1010,1012' }] });
    expect(narrowed.handles).toBeUndefined();
    expect(narrowBrief(brief, null, parseFrameRange('1001-1005')).passes.map(({ name }) => name)).toEqual(['beauty', 'albedo']);
    expect(narrowBrief(brief, null, null)).toEqual(brief);
  });
});
