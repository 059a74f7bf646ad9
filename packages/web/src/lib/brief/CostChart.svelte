<!-- Noise and time over samples in one chart: measured points, fitted laws, and where the aim stands. -->
<script lang="ts">
  import { noiseAt, secondsAt, type NoiseFit, type TestRender, type TimeFit } from '@mint-tally/core';
  import { LineChart, ScatterChart } from 'echarts/charts';
  import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
  import { init, use, type EChartsType } from 'echarts/core';
  import { SVGRenderer } from 'echarts/renderers';
  import { currentTheme } from '$lib/states/theme.svelte';

  use([LineChart, ScatterChart, GridComponent, TooltipComponent, LegendComponent, MarkLineComponent, SVGRenderer]);

  let { tests, noise, time, samples }: { tests: readonly TestRender[]; noise: NoiseFit | null; time: TimeFit | null; samples: number } = $props();

  let box: HTMLDivElement | undefined = $state();
  let width = $state(0);
  let chart: EChartsType | null = null;

  $effect(() => {
    if (!box) return;
    chart = init(box, null, { renderer: 'svg' });
    return () => chart?.dispose();
  });

  $effect(() => {
    void currentTheme();
    if (width === 0 || !box) return;
    chart?.resize();
    chart?.setOption(optionsOf(box), { notMerge: true });
  });

  /** Sample counts that a curve is drawn through, evenly on the logarithmic axis. */
  function curve(at: (samples: number) => number): [number, number][] {
    const counts = tests.map((test) => test.samples);
    const [low, high] = [Math.min(...counts, samples) / 2, Math.max(...counts, samples) * 2];
    return Array.from({ length: 61 }, (_, i) => low * (high / low) ** (i / 60)).map((count) => [count, at(count)]);
  }

  function optionsOf(element: HTMLElement) {
    const style = getComputedStyle(element);
    const tone = (name: string) => style.getPropertyValue(`--${name}`).trim();
    const text = { color: tone('soft'), fontFamily: style.fontFamily, fontSize: 12 };
    const axis = {
      axisLabel: text,
      nameTextStyle: text,
      axisLine: { lineStyle: { color: tone('line') } },
      splitLine: { lineStyle: { color: tone('line'), opacity: 0.5 } },
    };
    const round = (value: number) => Number(value.toPrecision(3));
    const line = (name: string, yAxisIndex: number, color: string, data: [number, number][], dashed: boolean) => ({
      name,
      type: 'line' as const,
      yAxisIndex,
      data,
      showSymbol: false,
      silent: true,
      lineStyle: { color, width: 2, type: dashed ? ('dashed' as const) : ('solid' as const) },
      itemStyle: { color },
    });
    const points = (name: string, yAxisIndex: number, color: string, symbol: string, data: [number, number][]) => ({
      name,
      type: 'scatter' as const,
      yAxisIndex,
      data,
      symbol,
      symbolSize: 9,
      itemStyle: { color },
    });
    const measured = (value: (test: TestRender) => number | null) =>
      tests.flatMap((test): [number, number][] => (value(test) === null ? [] : [[test.samples, value(test)!]]));
    const mark = {
      silent: true,
      symbol: 'none',
      animation: false,
      label: { show: false },
      lineStyle: { color: tone('ink'), width: 1.5, type: 'solid' as const },
      data: [{ xAxis: samples }],
    };
    return {
      animation: false,
      // The names of the axes stand below the legend: beside it there is no room on narrow screens.
      grid: { left: 64, right: 64, top: 56, bottom: 42 },
      legend: { top: 0, data: ['noise', 'seconds a frame'], textStyle: text },
      tooltip: {
        trigger: 'item' as const,
        backgroundColor: tone('bar'),
        borderColor: tone('line'),
        textStyle: { color: tone('ink'), fontSize: 12 },
        valueFormatter: (value: unknown) => (Array.isArray(value) ? value.map((one) => round(Number(one))).join(' samples: ') : String(value)),
      },
      xAxis: { ...axis, type: 'log' as const, logBase: 2, name: 'samples', nameLocation: 'middle' as const, nameGap: 26, minorSplitLine: { show: false } },
      yAxis: [
        { ...axis, type: 'log' as const, name: 'noise', axisLabel: { ...text, formatter: (value: number) => String(round(value)) } },
        {
          ...axis,
          type: 'log' as const,
          name: 'seconds',
          splitLine: { show: false },
          axisLabel: { ...text, formatter: (value: number) => String(round(value)) },
        },
      ],
      series: [
        ...(noise
          ? [
              {
                ...line(
                  'noise',
                  0,
                  tone('mint'),
                  curve((count) => noiseAt(noise, count)),
                  false,
                ),
                markLine: mark,
              },
            ]
          : []),
        ...(time
          ? [
              {
                ...line(
                  'seconds a frame',
                  1,
                  tone('odd'),
                  curve((count) => secondsAt(time, count)),
                  true,
                ),
                ...(noise ? {} : { markLine: mark }),
              },
            ]
          : []),
        points(
          'noise',
          0,
          tone('mint'),
          'circle',
          measured((test) => test.noise),
        ),
        points(
          'seconds a frame',
          1,
          tone('odd'),
          'diamond',
          measured((test) => test.seconds),
        ),
      ],
    };
  }
</script>

<div bind:clientWidth={width} class="min-w-0">
  <div bind:this={box} class="h-[290px] w-full" role="img" aria-label="Noise and seconds a frame over samples"></div>
</div>
