<!-- One figure of every pass over the shot's frames, with the playhead and the ordered target. -->
<script lang="ts">
  import { LineChart, ScatterChart } from 'echarts/charts';
  import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
  import { init, use, type EChartsType } from 'echarts/core';
  import { CanvasRenderer } from 'echarts/renderers';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { sayFigure, titleOf, type FigureKey, type ShownFrame } from './figures';

  use([LineChart, ScatterChart, GridComponent, TooltipComponent, LegendComponent, MarkLineComponent, CanvasRenderer]);

  let {
    frames,
    figure,
    against,
    title,
    target,
    playhead,
    ongo,
  }: {
    frames: readonly ShownFrame[];
    figure: FigureKey;
    /** The figure that it is drawn against; null for the frames. */
    against: FigureKey | null;
    title: string;
    /** Of the brief; null where it asks for none, or the figure is another. */
    target: number | null;
    playhead: number;
    ongo: (frame: number) => void;
  } = $props();

  let box: HTMLDivElement | undefined = $state();
  let width = $state(0);
  let height = $state(0);
  let chart: EChartsType | null = null;

  $effect(() => {
    if (!box) return;
    const made = (chart = init(box));
    made.getZr().on('click', ({ offsetX, offsetY }) => {
      if (against !== null) return;
      const [frame] = made.convertFromPixel({ gridIndex: 0 }, [offsetX, offsetY]);
      ongo(Math.round(frame!));
    });
    made.on('click', ({ data }) => {
      // Two figures against each other: a point knows its frame.
      if (against !== null && Array.isArray(data) && typeof data[2] === 'number') ongo(data[2]);
    });
    return () => made.dispose();
  });

  $effect(() => {
    void currentTheme();
    if (width === 0 || height === 0 || !box || !chart) return;
    chart.resize();
    chart.setOption(against === null ? optionsOf(box) : againstOf(box, against), { notMerge: true });
  });

  /** Passes are told apart by their dashes as well as by their tone. */
  const DASHES = ['solid', [6, 3], [2, 3], [10, 3, 2, 3], [4, 2, 1, 2]] as const;

  const TONES = ['mint', 'odd', 'ink', 'soft', 'bad'];
  const SHAPES = ['circle', 'rect', 'triangle', 'diamond', 'pin'];
  /** Of as many dashes or shapes as there are tones: with every round of the tones they move on by one, so that no two passes look alike. */
  const inTurn = <One,>(list: readonly One[], i: number) => list[(i + Math.floor(i / TONES.length)) % list.length];
  const shortly = (value: number) => String(Number(value.toPrecision(3)));

  /** How lines and texts of a chart look in this theme. */
  function looksOf(element: HTMLElement) {
    const style = getComputedStyle(element);
    const tone = (name: string) => style.getPropertyValue(`--${name}`).trim();
    const text = { color: tone('soft'), fontFamily: style.fontFamily, fontSize: 12 };
    const axis = { axisLabel: text, axisLine: { lineStyle: { color: tone('line') } }, splitLine: { lineStyle: { color: tone('line'), opacity: 0.5 } } };
    const tooltip = { backgroundColor: tone('bar'), borderColor: tone('line'), textStyle: { color: tone('ink'), fontSize: 12 } };
    return { tone, text, axis, tooltip, passes: [...new Set(frames.map(({ pass }) => pass))] };
  }

  /** A figure over another one, a point for each frame: noise over render time shows what samples buy. */
  function againstOf(element: HTMLElement, other: FigureKey) {
    const { tone, text, axis, tooltip, passes } = looksOf(element);
    const named = {
      ...axis,
      type: 'value' as const,
      scale: true,
      axisLabel: { ...text, formatter: shortly },
      nameTextStyle: text,
      nameLocation: 'middle' as const,
    };
    return {
      animation: false,
      grid: { left: 78, right: 18, top: 34, bottom: 46 },
      legend: { top: 0, left: 60, textStyle: text, data: passes },
      tooltip: {
        ...tooltip,
        trigger: 'item' as const,
        formatter: ({ seriesName, data }: { seriesName: string; data: [number, number, number] }) =>
          `${seriesName} ${data[2]}<br>${titleOf(other)} ${sayFigure(data[0])}<br>${title} ${sayFigure(data[1])}`,
      },
      xAxis: { ...named, name: titleOf(other), nameGap: 28 },
      yAxis: { ...named, name: title, nameGap: 56 },
      series: passes.map((pass, i) => ({
        name: pass,
        type: 'scatter' as const,
        symbol: inTurn(SHAPES, i),
        symbolSize: (data: [number, number, number]) => (data[2] === playhead ? 14 : 8),
        data: frames
          .filter((frame) => frame.pass === pass && frame[other] !== null && frame[figure] !== null)
          .map((frame) => [frame[other], frame[figure], frame.frame]),
        itemStyle: { color: tone(TONES[i % TONES.length]!) },
      })),
    };
  }

  function optionsOf(element: HTMLElement) {
    const { tone, text, axis, tooltip, passes } = looksOf(element);
    const mark = (lineStyle: object, data: object[], label: object = { show: false }) => ({
      silent: true,
      symbol: 'none',
      animation: false,
      label,
      lineStyle,
      data,
    });
    return {
      animation: false,
      // What is ordered stands beside its line, where no other goes on behind it.
      grid: { left: 64, right: target === null ? 18 : 70, top: 34, bottom: 28 },
      legend: { top: 0, left: 60, textStyle: text, data: passes },
      tooltip: {
        ...tooltip,
        trigger: 'axis' as const,
        valueFormatter: (value: unknown) => sayFigure(typeof value === 'number' ? value : null),
      },
      xAxis: {
        ...axis,
        type: 'value' as const,
        min: 'dataMin',
        max: 'dataMax',
        minInterval: 1,
        splitLine: { show: false },
        axisLabel: { ...text, formatter: String },
      },
      yAxis: { ...axis, type: 'value' as const, min: 0, axisLabel: { ...text, formatter: shortly } },
      series: [
        ...passes.map((pass, i) => ({
          name: pass,
          type: 'line' as const,
          showSymbol: false,
          connectNulls: false,
          data: frames.filter((frame) => frame.pass === pass).map((frame) => [frame.frame, frame[figure]]),
          lineStyle: { color: tone(TONES[i % TONES.length]!), width: i === 0 ? 2 : 1.3, type: inTurn(DASHES, i) as 'solid' },
          itemStyle: { color: tone(TONES[i % TONES.length]!) },
          ...(i === 0 ? { markLine: mark({ color: tone('ink'), width: 1.5, type: 'solid' }, [{ xAxis: playhead }]) } : {}),
        })),
        ...(target === null
          ? []
          : [
              {
                name: 'ordered',
                type: 'line' as const,
                data: [],
                markLine: mark({ color: tone('bad'), width: 1.5, type: 'dashed' }, [{ yAxis: target }], {
                  show: true,
                  color: tone('ink'),
                  position: 'end',
                  formatter: `ordered\n${target}`,
                  fontFamily: text.fontFamily,
                }),
              },
            ]),
      ],
    };
  }
</script>

<div bind:clientWidth={width} bind:clientHeight={height} class="min-h-[200px] min-w-0 flex-1">
  <div
    bind:this={box}
    class="h-full min-h-[200px] w-full"
    role="img"
    aria-label={against === null ? `${title} over the frames, a line for each pass` : `${title} over ${titleOf(against)}, a point for each frame`}
  ></div>
</div>
