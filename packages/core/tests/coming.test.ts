import { describe, expect, it } from 'vitest';
import {
  contentsFor,
  framesToRender,
  makeLanes,
  parseBrief,
  parseFrameRange,
  refuseDenoised,
  renderGroups,
  workOutOrder,
  writtenOver,
  formatFrameRange,
  type Coming,
} from '../src/index.ts';
import { count, exrFrame, NOW, short } from './virtual-folder.ts';
import { B, brief, changed, wholeShot } from './whole-shot.ts';

const order = workOutOrder(parseBrief(brief));
const coming = (frames: string, change: Partial<Coming> = {}): Coming => ({
  frames: parseFrameRange(frames),
  passes: null,
  replaces: true,
  since: NOW - 60_000,
  ...change,
});
const OLD = NOW - 3_600_000;
const JUST = NOW - 500;
const SETTLED = NOW - 10_000;

describe('frames that are still to come', () => {
  const lacking = changed((folder) => {
    delete folder[B('1009')];
    delete folder[B('1010')];
  });

  it('are told as such and not as missing; the shot is not ready', () => {
    const result = count(lacking, brief, { coming: coming('1009-1010', { passes: new Set(['beauty']) }) });
    expect(short(result)).toEqual(['coming-frame beauty 1009-1010']);
    expect(result.ready).toBe(false);
    expect(result.passes.map(({ name, sound, missing }) => `${name} ${sound} ${missing}`)).toEqual(['beauty 8 ', 'depth 10 ']);
    expect(makeLanes(order, result.findings, () => false).map(({ states }) => states)).toEqual(['ssssssssll', 'ssssssssss']);
  });

  it('leave the rest of what is missing missing', () => {
    expect(short(count(lacking, brief, { coming: coming('1010', { passes: new Set(['beauty']) }) }))).toEqual([
      'coming-frame beauty 1010',
      'missing-frame beauty 1009',
    ]);
  });

  it('set aside files that are older than their rendering, and files that were written a moment ago', () => {
    const at = (modified: number) =>
      short(count(wholeShot(), brief, { modified: (path) => (path === B('1005') ? modified : OLD), coming: coming('1005', { passes: new Set(['beauty']) }) }));
    expect(at(OLD)).toEqual(['coming-frame beauty 1005']);
    expect(at(JUST)).toEqual(['coming-frame beauty 1005']);
    expect(at(SETTLED)).toEqual([]);
  });

  it('are not judged by what a renderer left when it was broken off, where it will be written again', () => {
    const cut = changed((folder) => (folder[B('1005')] = exrFrame().subarray(0, 300)));
    const options = { modified: (path: string) => (path === B('1005') ? SETTLED : OLD) };
    const passes = new Set(['beauty']);
    expect(short(count(cut, brief, { ...options, coming: coming('1005', { passes }) }))).toEqual(['coming-frame beauty 1005']);
    expect(short(count(cut, brief, { ...options, coming: coming('1005', { passes, replaces: false }) }))).toEqual(['truncated beauty 1005']);
  });
});

describe('what is left to render', () => {
  const faulty = changed((folder) => {
    delete folder[B('1002')];
    folder[B('1004')] = new Uint8Array(0);
    folder[B('1006').replace('beauty.', 'Beauty_')] = folder[B('1006')];
    delete folder[B('1006')];
  });
  const { findings } = count(faulty, brief);
  const rest = framesToRender(order, findings);

  it('is exactly what is ordered minus what is sound; what is misnamed needs a decision', () => {
    expect(formatFrameRange(rest.render)).toBe('1002,1004');
    expect(formatFrameRange(rest.decide)).toBe('1006');
    expect(formatFrameRange(framesToRender(order, null).render)).toBe('1001-1010');
    expect(framesToRender(order, count(wholeShot(), brief).findings).render.isEmpty).toBe(true);
  });

  it('is told by pass, so that what one lacks costs no good frame of another', () => {
    const groupsOf = (change: (folder: ReturnType<typeof wholeShot>) => void, together = false) => {
      const wanted = workOutOrder(parseBrief({ ...brief, allPassesAtOnce: together }));
      return renderGroups(wanted, framesToRender(wanted, count(changed(change), brief).findings)).map(
        ({ passes, frames }) => `${passes.join(' and ')} ${formatFrameRange(frames)}`,
      );
    };
    const lackDepth = (folder: ReturnType<typeof wholeShot>) => {
      for (const path of Object.keys(folder)) if (path.startsWith('depth/')) delete folder[path];
      delete folder[B('1002')];
    };
    expect(groupsOf(lackDepth)).toEqual(['depth 1001-1010', 'beauty 1002']);
    expect(groupsOf(lackDepth, true)).toEqual(['beauty and depth 1001-1010']);
    expect(groupsOf(() => undefined)).toEqual([]);
    expect(renderGroups(order, framesToRender(order, null)).map(({ passes }) => passes)).toEqual([['beauty', 'depth']]);
  });

  it('holds nothing that is denoised from what is rendered; what that lacks is told apart', () => {
    const clean = { ...brief.passes[0]!, name: 'clean', pattern: 'clean/clean.####.exr', denoisedFrom: 'beauty' };
    const wanted = workOutOrder(parseBrief({ ...brief, allPassesAtOnce: true, passes: [...brief.passes, clean] }));
    const left = framesToRender(
      wanted,
      count(
        changed((folder) => delete folder[B('1002')]),
        wanted.brief,
      ).findings,
    );
    expect([formatFrameRange(left.render), [...left.lacking.keys()], [...left.there.keys()]]).toEqual(['1002', ['beauty', 'depth'], ['beauty', 'depth']]);
    expect([...left.denoise].map(([name, frames]) => `${name} ${formatFrameRange(frames)}`)).toEqual(['clean 1001-1010']);
    expect(renderGroups(wanted, left).map(({ passes }) => passes)).toEqual([['beauty', 'depth']]);
    expect(() => wanted.brief.passes.forEach(refuseDenoised)).toThrow('The pass clean is not rendered: it is denoised from beauty.');
    const listed = contentsFor(wanted, '', parseFrameRange('1001'), []);
    expect(Object.keys(listed)).toEqual(['beauty', 'depth']);
  });

  it('tells what a render would write over, pass by pass', () => {
    const over = (frames: string, passes: string[]) =>
      writtenOver(rest, parseFrameRange(frames), passes).map(({ pass, frames: set }) => `${pass} ${formatFrameRange(set)}`);
    expect(over('1002-1004', ['beauty', 'depth'])).toEqual(['beauty 1003', 'depth 1002-1004']);
    expect(over('1002,1004', ['beauty'])).toEqual([]);
    expect(writtenOver(framesToRender(order, null), parseFrameRange('1001-1010'), ['beauty', 'depth'])).toEqual([]);
  });
});
