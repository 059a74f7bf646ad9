<!--
  The spine: one lane a pass, one column a frame, one playhead and one selection for all screens.
  `full` gives each pass a lane of its own; `slim` shows the passes when there is room, else the
  one that is looked at and the worst of all.
-->
<script lang="ts">
  import Maximize2 from '@lucide/svelte/icons/maximize-2';
  import ZoomIn from '@lucide/svelte/icons/zoom-in';
  import ZoomOut from '@lucide/svelte/icons/zoom-out';
  import { formatBytes } from '$lib/text/format';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { stateTitles } from '$lib/states/states';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { drawStretches, prepareCanvas, readPalette } from './draw-states';
  import { drawHosts, drawSizes, makeSizeLane, type SizeLane } from './draw-measures';
  import FrameHover from './FrameHover.svelte';
  import LaneMenu from './LaneMenu.svelte';
  import Overview from './Overview.svelte';
  import { measuresSchema, type Measures } from '$lib/files/file-row';
  import { chooseTicks, layOutLane, stateOfRank, type RibbonLane } from './ribbon-model';

  let { size, shotId, counted = '' }: { size: 'full' | 'slim'; shotId: number; /** When the shot was counted last. */ counted?: string } = $props();

  const view = useShotView();
  const TOP = 24;
  const SLIM_LANES = 4;

  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);
  let measures = $state.raw<Measures | null>(null);
  let hover: { column: number; lane: string | null; x: number; y: number } | null = $state(null);
  let dragFrom: number | null = null;
  let dragMoved = false;

  const lanes: readonly RibbonLane[] = $derived.by(() => {
    const { model } = view;
    if (size === 'full') return model.lanes.filter((lane) => !view.hidden.includes(lane.name));
    if (model.lanes.length <= SLIM_LANES) return model.lanes;
    return [model.lanes.find((lane) => lane.name === view.pass) ?? model.lanes[0], model.worst];
  });
  const laneHeight = $derived(size === 'slim' ? 15 : lanes.length <= 8 ? 24 : lanes.length <= 14 ? 19 : 16);
  const laneGap = $derived(size === 'slim' ? 2 : 4);
  /** Measurements under the passes, with the height of each. */
  const MEASURE_HEIGHTS = { size: 30, machine: 18 } as const;
  const measured = $derived(size === 'full' && measures ? (['size', 'machine'] as const).filter((lane) => view.measures.includes(lane)) : []);
  const lanesEnd = $derived(TOP + lanes.length * laneHeight);
  const height = $derived(lanesEnd + 4 + measured.reduce((sum, lane) => sum + MEASURE_HEIGHTS[lane] + 6, 0));
  const sizes: SizeLane | null = $derived(measures && makeSizeLane(view.model.frames, measures));
  const scale = $derived(width / (view.shown[1] - view.shown[0]));

  const description = $derived(
    `Frame ${view.frame}. ${view.model.lanes
      .map((lane) => ({ name: lane.name, state: stateOfRank(lane.ranks[view.column]) }))
      .map(({ name, state }) => `${name} ${state ? stateTitles[state] : 'not ordered'}`)
      .join(', ')}`,
  );

  $effect(() => {
    if (!canvas || width === 0) return;
    void currentTheme();
    const target = canvas;
    // All of these are read here, so that a change of any draws again, at most once a refresh.
    const facts = {
      model: view.model,
      shown: view.shown,
      column: view.column,
      frame: view.frame,
      selection: view.selection,
      pass: view.pass,
      lanes,
      width,
      height,
      laneHeight,
      laneGap,
      measured,
      measures,
      sizes,
      lanesEnd,
      hoverColumn: hover?.column ?? null,
    };
    const request = requestAnimationFrame(() => draw(target, facts));
    return () => cancelAnimationFrame(request);
  });

  interface Facts {
    model: typeof view.model;
    shown: readonly [number, number];
    column: number;
    frame: number;
    selection: readonly [number, number] | null;
    pass: string;
    lanes: readonly RibbonLane[];
    width: number;
    height: number;
    laneHeight: number;
    laneGap: number;
    measured: readonly ('size' | 'machine')[];
    measures: Measures | null;
    sizes: SizeLane | null;
    lanesEnd: number;
    hoverColumn: number | null;
  }

  function draw(target: HTMLCanvasElement, facts: Facts) {
    const context = prepareCanvas(target, facts.width, facts.height);
    if (!context || facts.model.frames.length === 0) return;
    const palette = readPalette(target);
    const [from, to] = facts.shown;
    const perColumn = facts.width / (to - from);
    const { frames } = facts.model;
    if (facts.selection) {
      const first = frames.findIndex((frame) => frame >= facts.selection![0]);
      const last = frames.findLastIndex((frame) => frame <= facts.selection![1]);
      if (first >= 0 && last >= first) {
        const x = (first - from) * perColumn;
        context.globalAlpha = 0.18;
        context.fillStyle = palette.mint;
        context.fillRect(x, TOP - 4, (last - first + 1) * perColumn, facts.height - TOP + 4);
        context.globalAlpha = 1;
        context.strokeStyle = palette.mint;
        context.lineWidth = 1;
        context.strokeRect(x + 0.5, TOP - 3.5, (last - first + 1) * perColumn - 1, facts.height - TOP + 3);
      }
    }
    facts.lanes.forEach((lane, index) => {
      drawStretches(context, layOutLane(lane.ranks, from, to, facts.width), 0, TOP + index * facts.laneHeight, facts.laneHeight - facts.laneGap, palette);
    });
    let top = facts.lanesEnd + 4;
    for (const lane of facts.measured) {
      const strip = { shown: facts.shown, top, width: facts.width, height: MEASURE_HEIGHTS[lane] };
      if (lane === 'size') drawSizes(context, facts.sizes!, strip, palette);
      else drawHosts(context, frames, facts.measures!, strip, palette);
      top += MEASURE_HEIGHTS[lane] + 6;
    }
    if (facts.hoverColumn !== null && facts.hoverColumn !== facts.column) {
      context.globalAlpha = 0.5;
      context.fillStyle = palette.soft;
      context.fillRect(Math.round((facts.hoverColumn + 0.5 - from) * perColumn), TOP - 4, 1, facts.height - TOP + 4);
      context.globalAlpha = 1;
    }
    drawTop(context, facts, palette, perColumn);
  }

  // Measurements of the pass that is looked at, anew after each count.
  $effect(() => {
    if (size !== 'full' || counted === '' || view.pass === '') return;
    const stop = new AbortController();
    const { pass } = view;
    fetch(`/shots/${shotId}/measures?${new URLSearchParams({ pass }).toString()}`, { signal: stop.signal })
      .then(async (response) => (measures = response.ok ? measuresSchema.parse(await response.json()) : null))
      // Without them the lanes stay away; the passes are what counts.
      .catch(() => (stop.signal.aborted ? undefined : (measures = null)));
    return () => stop.abort();
  });

  function drawTop(context: CanvasRenderingContext2D, facts: Facts, palette: ReturnType<typeof readPalette>, perColumn: number) {
    const [from, to] = facts.shown;
    const { frames } = facts.model;
    context.font = "12px 'Atkinson Hyperlegible Mono Variable', monospace";
    context.textBaseline = 'middle';
    const head = (facts.column + 0.5 - from) * perColumn;
    const label = String(facts.frame);
    const labelWidth = context.measureText(label).width + 12;
    const labelLeft = Math.min(facts.width - labelWidth, Math.max(0, head - labelWidth / 2));
    context.fillStyle = palette.soft;
    for (const column of chooseTicks(frames, from, to, facts.width, 62)) {
      const x = (column - from) * perColumn;
      const text = String(frames[column]);
      const end = x + context.measureText(text).width;
      context.fillRect(x, TOP - 6, 1, 4);
      // A number that the playhead's would cover, or that would be cut, gives way.
      if (end + 4 < labelLeft || x > labelLeft + labelWidth + 4) if (end <= facts.width) context.fillText(text, x, 9);
    }
    if (facts.column + 1 <= from || facts.column >= to) return;
    context.fillStyle = palette.ink;
    context.fillRect(Math.round(head) - 1, 16, 2, facts.height - 16);
    context.beginPath();
    context.roundRect(labelLeft, 0, labelWidth, 18, 4);
    context.fill();
    context.fillStyle = palette.ground;
    context.fillText(label, labelLeft + 6, 9.5);
  }

  const columnAt = (event: PointerEvent | WheelEvent | MouseEvent) => view.shown[0] + (event.clientX - canvas!.getBoundingClientRect().left) / scale;

  function laneAt(event: PointerEvent): string | null {
    const index = Math.floor((event.clientY - canvas!.getBoundingClientRect().top - TOP) / laneHeight);
    if (index < 0 || index >= lanes.length) return null;
    return lanes[index] && lanes[index] !== view.model.worst ? lanes[index].name : null;
  }

  function press(event: PointerEvent) {
    if (event.button !== 0 || view.model.frames.length === 0) return;
    canvas!.setPointerCapture(event.pointerId);
    const column = Math.floor(columnAt(event));
    if (event.shiftKey) view.extendTo(column);
    else view.goToColumn(column);
    const lane = laneAt(event);
    if (lane) view.choosePass(lane);
    dragFrom = view.frame;
    dragMoved = event.shiftKey;
  }

  function drag(event: PointerEvent) {
    const column = Math.floor(columnAt(event));
    hover =
      dragFrom === null && size === 'full' && column >= 0 && column < view.model.frames.length
        ? { column, lane: laneAt(event), x: event.clientX, y: event.clientY }
        : null;
    if (dragFrom === null) return;
    view.goToColumn(Math.floor(columnAt(event)));
    if (view.frame !== dragFrom) dragMoved = true;
    if (dragMoved && !event.shiftKey) view.select(dragFrom, view.frame);
  }

  function release() {
    if (dragFrom !== null && !dragMoved) view.selection = null;
    dragFrom = null;
  }

  function turn(event: WheelEvent) {
    event.preventDefault();
    const [from, to] = view.shown;
    if (Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey) view.pan(((event.deltaX || event.deltaY) * (to - from)) / width);
    else view.zoom(Math.exp(event.deltaY * 0.002), columnAt(event));
  }

  function listenToWheel(element: HTMLElement) {
    // Svelte's own wheel listeners are passive; this one must keep the page from scrolling.
    element.addEventListener('wheel', turn, { passive: false });
    return () => element.removeEventListener('wheel', turn);
  }
</script>

<div class="relative flex">
  {#if size === 'full'}<div class="absolute top-0 left-3.5"><LaneMenu /></div>{/if}
  <ul class={['w-[108px] shrink-0 pl-4.5', size === 'slim' ? 'text-[12px]' : 'text-[14px]']} style="padding-top: {TOP - laneGap / 2}px" aria-label="Passes">
    {#each lanes as lane (lane.name)}
      <li style="height: {laneHeight}px" class="flex items-center">
        {#if lane === view.model.worst}
          <span class="truncate text-soft">{lane.name}</span>
        {:else}
          <button
            type="button"
            tabindex="-1"
            onclick={() => view.choosePass(lane.name)}
            aria-pressed={lane.name === view.pass}
            title={lane.name}
            class={['truncate text-left', lane.name === view.pass ? 'font-bold text-ink' : 'text-soft hover:text-ink']}>{lane.name}</button
          >
        {/if}
      </li>
    {/each}
    {#each measured as lane (lane)}
      <li class="flex items-center truncate pt-1 text-[12px] text-soft" style="height: {MEASURE_HEIGHTS[lane] + 6}px">
        {#if lane === 'size'}<span class="leading-tight">file size<br /><span class="figure text-[11px]">to {formatBytes(sizes?.largest ?? 0)}</span></span
          >{:else}machine{/if}
      </li>
    {/each}
  </ul>
  <!-- The shot's screens move the playhead by keys wherever the focus is; here it can rest. -->
  <div
    class="min-w-0 flex-1"
    bind:clientWidth={width}
    role="slider"
    tabindex="0"
    aria-label="Playhead"
    aria-orientation="horizontal"
    aria-valuemin={view.model.frames[0] ?? 0}
    aria-valuemax={view.model.frames.at(-1) ?? 0}
    aria-valuenow={view.frame}
    aria-valuetext={description}
  >
    <canvas
      bind:this={canvas}
      style="height: {height}px"
      class="block w-full cursor-crosshair touch-none"
      {@attach listenToWheel}
      onpointerdown={press}
      onpointermove={drag}
      onpointerup={release}
      onpointercancel={release}
      onpointerleave={() => (hover = null)}
      ondblclick={() => (view.window = null)}
    ></canvas>
    {#if hover}
      <FrameHover
        {shotId}
        pass={hover.lane ?? view.pass}
        frame={view.model.frames[hover.column]}
        rank={view.model.lanes.find((lane) => lane.name === (hover!.lane ?? view.pass))?.ranks[hover.column] ?? 255}
        x={hover.x}
        y={hover.y}
      />
    {/if}
  </div>
</div>
{#if size === 'full'}
  <div class="flex items-center pt-1">
    <div class="flex w-[108px] shrink-0 items-center gap-0.5 pl-3.5" role="group" aria-label="Zoom">
      <button type="button" class="zoom" title="Fewer frames (+)" aria-label="Show fewer frames" onclick={() => view.zoom(0.6, view.column + 0.5)}
        ><ZoomIn size={14} aria-hidden="true" /></button
      >
      <button
        type="button"
        class="zoom"
        title="More frames (-)"
        aria-label="Show more frames"
        disabled={!view.window}
        onclick={() => view.zoom(1 / 0.6, view.column + 0.5)}><ZoomOut size={14} aria-hidden="true" /></button
      >
      <button type="button" class="zoom" title="All frames (0)" aria-label="Show all frames" disabled={!view.window} onclick={() => (view.window = null)}
        ><Maximize2 size={13} aria-hidden="true" /></button
      >
    </div>
    <Overview />
  </div>
{/if}

<style>
  .zoom {
    border-radius: 4px;
    padding: 2px 4px;
    color: var(--soft);
    &:hover:not(:disabled) {
      background: var(--hover);
      color: var(--ink);
    }
    &:disabled {
      opacity: 0.45;
    }
  }
</style>
