import { frameStates, type Lane } from '@mint-tally/core';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { makeBarLane } from '$lib/ribbon/draw-figures';
import { drawRibbon, TOP, type RibbonFacts } from '$lib/ribbon/draw-ribbon';
import { makeRibbonModel } from '$lib/ribbon/ribbon-model';

/** One thing drawn, with the tone that it is drawn in. */
interface Mark {
  readonly what: string;
  readonly at: readonly unknown[];
  readonly fill: unknown;
  readonly stroke: unknown;
}

/** A canvas that notes what is drawn on it; a letter is 7 pixels wide. */
function notingCanvas(): { canvas: HTMLCanvasElement; marks: Mark[] } {
  const marks: Mark[] = [];
  const styles: Record<string, unknown> = {};
  const context = new Proxy(styles, {
    get: (_, name: string) => {
      if (name === 'measureText') return (text: string) => ({ width: text.length * 7 });
      if (name === 'createPattern') return () => 'hatched';
      if (name in styles) return styles[name];
      return (...at: unknown[]) => void marks.push({ what: name, at, fill: styles.fillStyle, stroke: styles.strokeStyle });
    },
  });
  return { canvas: { getContext: () => context } as unknown as HTMLCanvasElement, marks };
}

beforeAll(() => {
  vi.stubGlobal('window', { devicePixelRatio: 1 });
  vi.stubGlobal('document', { createElement: () => notingCanvas().canvas });
  // Every tone is called by its name.
  vi.stubGlobal('getComputedStyle', () => ({ getPropertyValue: (name: string) => name.slice(2) }));
});
afterAll(() => vi.unstubAllGlobals());

const WIDTH = 800;

function draw(lanes: readonly Lane[], more: Partial<RibbonFacts> = {}): Mark[] {
  const model = makeRibbonModel(lanes);
  const lanesEnd = TOP + model.lanes.length * 20;
  const { canvas, marks } = notingCanvas();
  const column = more.column ?? 0;
  drawRibbon(canvas, {
    model,
    shown: [0, model.frames.length],
    column,
    frame: model.frames[column],
    selected: [],
    lanes: model.lanes,
    width: WIDTH,
    height: lanesEnd + 60,
    laneHeight: 20,
    laneGap: 4,
    shownFigures: [],
    figures: null,
    bars: {},
    watched: null,
    lanesEnd,
    hoverColumn: null,
    isHeld: null,
    ...more,
  });
  return marks;
}

const lane = (states: string, first = 1001): Lane => ({ pass: 'beauty', frames: `${first}-${first + states.length - 1}`, states });

describe('a drawing of the ribbon', () => {
  it('gives every state a shape of its own, whatever its tone', () => {
    // The place of the playhead is outside, so that only the lane is compared.
    const shapes = Object.values(frameStates).map((state) => {
      const own = draw([lane(`${state}${'s'.repeat(9)}`)], { column: 9 }).filter(
        ({ what, at }) => what === 'setLineDash' || (Number(at[0]) < WIDTH / 10 && Number(at[1]) >= TOP && Number(at[1]) < TOP + 20),
      );
      return own
        .map(
          ({ what, at, fill }) =>
            `${what} ${at
              .flat()
              .map((place) => Math.round(Number(place)))
              .join()} ${fill === 'hatched' ? fill : ''}`,
        )
        .join('; ');
    });
    expect(new Set(shapes).size).toBe(shapes.length);
  });

  it('shows trouble at any zoom: in its own tone, not narrower than three pixels', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4999 }), fc.constantFrom('m', 'b', 'x'), (at, state) => {
        const states = 's'.repeat(at) + state + 's'.repeat(4999 - at);
        const marks = draw([lane(states)], { column: at === 0 ? 4999 : 0 });
        const trouble = marks.filter(({ what, fill }) => what === 'fillRect' && fill === 'bad');
        expect(trouble.length).toBeGreaterThan(0);
        for (const mark of trouble) expect(Number(mark.at[2])).toBeGreaterThanOrEqual(3);
      }),
      { numRuns: 50 },
    );
  });

  it('writes no frame number where the playhead’s covers it, and none beyond the edge', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 3000 }), fc.double({ min: 0, max: 0.999, noNaN: true }), (count, where) => {
        const column = Math.floor(where * count);
        const marks = draw([lane('s'.repeat(count))], { column });
        const label = marks.find(({ what }) => what === 'roundRect')!;
        const [left, , width] = label.at as number[];
        const numbers = marks.filter(({ what, fill }) => what === 'fillText' && fill === 'soft');
        for (const { at } of numbers) {
          const [text, x] = at as [string, number];
          const end = x + text.length * 7;
          expect(end).toBeLessThanOrEqual(WIDTH);
          expect(end < left || x > left + width).toBe(true);
        }
        expect(left).toBeGreaterThanOrEqual(0);
        expect(left + width).toBeLessThanOrEqual(WIDTH);
      }),
      { numRuns: 100 },
    );
  });

  it('has the playhead’s number, and none when it is not among the frames shown', () => {
    const [number] = draw([lane('sssss')], { column: 3 }).filter(({ what, fill }) => what === 'fillText' && fill === 'ground');
    expect(number.at[0]).toBe('1004');
    expect(draw([lane('s'.repeat(100))], { column: 90, shown: [0, 50] }).filter(({ what }) => what === 'roundRect')).toEqual([]);
  });

  it('frames every run of the selection', () => {
    const frames = draw([{ pass: 'beauty', frames: '1001-1019x2', states: 's'.repeat(10) }], {
      selected: [
        [1, 3],
        [7, 7],
      ],
    }).filter(({ what, stroke }) => what === 'strokeRect' && stroke === 'mint');
    // Columns of a tenth of 800 pixels.
    expect(frames.map(({ at }) => [Math.round(Number(at[0])), Math.round(Number(at[2]))])).toEqual([
      [81, 239],
      [561, 79],
    ]);
  });

  it('lays sizes and machines under the passes where they are known', () => {
    const figures = { frames: [1001, 1002, 1003], sizes: [100, 50, 400], host: [0, 0, 1], hosts: ['bowline', 'reef'], measured: null };
    const without = draw([lane('sss')]);
    const model = makeRibbonModel([lane('sss')]);
    const marks = draw([lane('sss')], {
      shownFigures: ['size', 'machine'],
      figures,
      bars: { size: makeBarLane(model.frames, figures.frames, figures.sizes, 1) },
    });
    expect(without.some(({ at }) => at.includes('bowline'))).toBe(false);
    expect(marks.filter(({ what, at }) => what === 'fillText' && ['bowline', 'reef'].includes(String(at[0]))).map(({ at }) => at[0])).toEqual([
      'bowline',
      'reef',
    ]);
    const bars = marks
      .filter(({ what, fill, at }) => what === 'fillRect' && fill === 'soft' && Number(at[1]) > TOP + 20)
      .map(({ at }) => Math.round(Number(at[3])));
    expect(bars.slice(0, 3)).toEqual([8, 4, 30]);
  });

  it('draws nothing of a shot without frames', () => {
    expect(draw([]).filter(({ what }) => !['setTransform', 'clearRect'].includes(what))).toEqual([]);
  });
});
