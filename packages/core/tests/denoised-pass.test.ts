import { describe, expect, it } from 'vitest';
import { BriefError, denoisedPlace, FrameSet, isForDenoising, isRendered, parseBrief, parseFrameRange, withDenoised } from '../src/index.ts';

const beauty = { name: 'beauty', role: 'beauty', pattern: 'beauty/orr_010_beauty.####.exr', channels: ['R', 'G', 'B', 'A'], depth: 'half' };
const briefOf = (more: object = {}, passes: object[] = [beauty]) => parseBrief({ shot: 'orr_010', range: '1001-1048', passes, ...more });

describe('where a pass goes without its noise', () => {
  it.each([
    ['beauty/orr_010_beauty.####.exr', 'beauty_denoised/orr_010_beauty_denoised.####.exr'],
    ['render/v003/beauty_%05d.exr', 'render/v003_denoised/beauty_denoised_%05d.exr'],
    ['beauty.####.exr', 'beauty_denoised/beauty_denoised.####.exr'],
    ['out/####.exr', 'out_denoised/####.exr'],
  ])('is beside %s', (pattern, sibling) => {
    expect(denoisedPlace(briefOf({}, [{ ...beauty, pattern }]), 'beauty')).toEqual({ name: 'beauty_denoised', pattern: sibling });
  });

  it('follows the brief’s template where the original does', () => {
    const naming = '{pass}/{version}/{shot}_{version}_{pass}.####.exr';
    const named = briefOf({ naming, version: 'v003' }, [{ ...beauty, pattern: 'beauty/v003/orr_010_v003_beauty.####.exr' }]);
    expect(denoisedPlace(named, 'beauty').pattern).toBe('beauty_denoised/v003/orr_010_v003_beauty_denoised.####.exr');
    const other = briefOf({ naming, version: 'v003' });
    expect(denoisedPlace(other, 'beauty').pattern).toBe('beauty_denoised/orr_010_beauty_denoised.####.exr');
    // A template that names no folders of passes does not give a folder of its own: the folder is made.
    const flat = briefOf({ naming: 'all/{shot}_{pass}.####.exr' }, [{ ...beauty, pattern: 'all/orr_010_beauty.####.exr' }]);
    expect(denoisedPlace(flat, 'beauty').pattern).toBe('all_denoised/orr_010_beauty_denoised.####.exr');
    expect(denoisedPlace(briefOf({ naming: '{nothing}' }), 'beauty').pattern).toBe('beauty_denoised/orr_010_beauty_denoised.####.exr');
  });

  it('is another place for each way of doing it', () => {
    expect([0, 1, 2].map((version) => denoisedPlace(briefOf(), 'beauty', version).name)).toEqual(['beauty_denoised', 'beauty_denoised_2', 'beauty_denoised_3']);
  });
});

describe('a brief with it', () => {
  const brief = briefOf({}, [{ ...beauty, compression: 'dwaa', watch: false }]);
  const place = denoisedPlace(brief, 'beauty');

  it('orders of it what is ordered of the original, but not how that is packed', () => {
    const [, result] = withDenoised(brief, 'beauty', place, parseFrameRange('1001-1048')).passes;
    expect(result).toEqual({ ...beauty, ...place, range: undefined, denoisedFrom: 'beauty' });
    expect([isRendered(result!), isForDenoising(result!), isForDenoising(brief.passes[0]!)]).toEqual([false, false, true]);
  });

  it('orders a part as a part, and what is added', () => {
    const part = withDenoised(brief, 'beauty', place, parseFrameRange('1001-1004'));
    expect(part.passes.map(({ range }) => range)).toEqual([undefined, '1001-1004']);
    const more = withDenoised(part, 'beauty', place, parseFrameRange('1003-1010,1020'));
    expect(more.passes.map(({ range }) => range)).toEqual([undefined, '1001-1010,1020']);
    expect(withDenoised(more, 'beauty', place, parseFrameRange('1001-1048')).passes.map(({ range }) => range)).toEqual([undefined, undefined]);
  });

  it('stays as it is when it orders those frames already, or the original no more', () => {
    const whole = withDenoised(brief, 'beauty', place, parseFrameRange('1001-1048'));
    expect(JSON.stringify(withDenoised(whole, 'beauty', place, FrameSet.of([1005])))).toBe(JSON.stringify(whole));
    expect(withDenoised(brief, 'gone', place, FrameSet.of([1005]))).toBe(brief);
  });

  it('is refused where the original is not ordered, is it itself, or has been denoised', () => {
    const refusing = (denoisedFrom: string, ...passes: object[]) => {
      try {
        briefOf({}, [...passes, { ...beauty, name: 'clean', pattern: 'clean/clean.####.exr', denoisedFrom }]);
        return null;
      } catch (thrown) {
        return thrown instanceof BriefError ? thrown.fields : thrown;
      }
    };
    expect(refusing('beauty', beauty)).toBeNull();
    expect(refusing('beauty')).toEqual({ 'passes.0.denoisedFrom': 'There is no pass “beauty” that it could be denoised from.' });
    expect(refusing('clean')).toEqual({ 'passes.0.denoisedFrom': '“clean” is no pass as it was rendered.' });
    expect(refusing('first', beauty, { ...beauty, name: 'first', pattern: 'first/first.####.exr', denoisedFrom: 'beauty' })).toEqual({
      'passes.2.denoisedFrom': '“first” is no pass as it was rendered.',
    });
  });
});
