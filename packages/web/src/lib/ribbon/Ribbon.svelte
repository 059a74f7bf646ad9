<!--
  The spine: one lane a pass, one column a frame, one playhead and one selection for all screens.
  `full` gives each pass a lane of its own; `slim` shows the passes when there is room, else the
  one that is looked at and the worst of all.
-->
<script lang="ts">
  import type { PassEyes } from '@mint-tally/core';
  import { sayBytes } from '$lib/text/format';
  import { figureLanes, useShotView, type FigureLane } from '$lib/shot/shot-view.svelte';
  import { stateTitles } from '$lib/states/states';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { makeBarLane, type BarLane } from './draw-figures';
  import { makeWatchedLane } from './draw-watched';
  import { drawRibbon, FIGURE_GAP, FIGURE_HEIGHTS, TOP, type RibbonFacts } from './draw-ribbon';
  import FrameHover from './FrameHover.svelte';
  import LaneMenu from './LaneMenu.svelte';
  import ZoomBar from './ZoomBar.svelte';
  import { figuresSchema, measuredLanes, type Figures } from '$lib/files/file-row';
  import { sayFigure, titleOf } from '$lib/assay/figures';
  import { stateOfRank, type RibbonLane } from './ribbon-model';

  /** Letters of a pass's name that are never cut off: what comes of one pass is told apart by its end. */
  const ENDING = 4;

  let {
    size,
    shotId,
    eyes,
    counted = '',
  }: {
    size: 'full' | 'slim';
    shotId: number;
    /** What has been seen of each pass. */
    eyes: readonly PassEyes[];
    /** When the shot was counted and measured last: figures are asked for anew. */
    counted?: string;
  } = $props();

  const view = useShotView();
  const SLIM_LANES = 4;

  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);
  let figures = $state.raw<Figures | null>(null);
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
  const watched = $derived.by(() => {
    const own = (view.eyes ?? eyes).find(({ pass }) => pass === view.pass);
    return own ? makeWatchedLane(view.model.frames, own) : null;
  });
  const bars = $derived.by((): Partial<Record<FigureLane, BarLane>> => {
    if (!figures) return {};
    const { frames } = view.model;
    const { measured } = figures;
    const own: Partial<Record<FigureLane, BarLane>> = { size: makeBarLane(frames, figures.frames, figures.sizes, 1) };
    // A figure that no frame has says nothing, and takes no room.
    if (measured)
      for (const lane of measuredLanes)
        if (measured[lane].some((value) => value !== null)) own[lane] = makeBarLane(frames, measured.frames, measured[lane], 1e-9);
    return own;
  });
  /** Nothing is laid under the passes where no file says which machine it comes from. */
  const isKnown = (lane: FigureLane) =>
    lane === 'machine' ? figures !== null && figures.hosts.length > 0 : lane === 'watched' ? watched !== null : bars[lane] !== undefined;
  /** Where pictures are looked at, what has been watched stands under the passes as well. */
  const wanted = $derived(size === 'full' ? view.figures : view.memory ? (['watched'] as const) : []);
  const shownFigures = $derived(figureLanes.filter((lane) => wanted.includes(lane) && isKnown(lane)));
  const lanesEnd = $derived(TOP + lanes.length * laneHeight);
  const height = $derived(lanesEnd + (view.memory ? 8 : 4) + shownFigures.reduce((sum, lane) => sum + FIGURE_HEIGHTS[lane] + FIGURE_GAP, 0));
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
    const facts: RibbonFacts = {
      model: view.model,
      shown: view.shown,
      column: view.column,
      frame: view.frame,
      selected: view.selectedColumns,
      lanes,
      width,
      height,
      laneHeight,
      laneGap,
      shownFigures,
      figures,
      bars,
      watched,
      lanesEnd,
      hoverColumn: hover?.column ?? null,
      isHeld: view.memory?.has ?? null,
    };
    void view.memory?.version();
    const request = requestAnimationFrame(() => drawRibbon(target, facts));
    return () => cancelAnimationFrame(request);
  });

  // Figures of the pass that is looked at, anew after each count.
  $effect(() => {
    if (size !== 'full' || counted === '' || view.pass === '') return;
    const stop = new AbortController();
    const { pass } = view;
    fetch(`/shots/${shotId}/figures?${new URLSearchParams({ pass }).toString()}`, { signal: stop.signal })
      .then(async (response) => (figures = response.ok ? figuresSchema.parse(await response.json()) : null))
      // Without them the lanes stay away; the passes are what counts.
      .catch(() => (stop.signal.aborted ? undefined : (figures = null)));
    return () => stop.abort();
  });

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
    if (dragFrom !== null && !dragMoved) view.clearSelection();
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
  <ul
    class={['w-[108px] shrink-0 pr-1 pl-4.5', size === 'slim' ? 'text-[12px]' : 'text-[14px]']}
    style="padding-top: {TOP - laneGap / 2}px"
    aria-label="Passes"
  >
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
            aria-label={lane.name}
            class={['flex min-w-0 text-left', lane.name === view.pass ? 'font-bold text-ink' : 'text-soft hover:text-ink']}
            ><span class="truncate">{lane.name.slice(0, -ENDING)}</span><span>{lane.name.slice(-ENDING)}</span></button
          >
        {/if}
      </li>
    {/each}
    {#each shownFigures as lane (lane)}
      <li class="flex items-center truncate pt-1 text-[12px] text-soft" style="height: {FIGURE_HEIGHTS[lane] + FIGURE_GAP}px">
        {#if lane === 'machine' || lane === 'watched'}{lane}{:else}<span class="leading-tight"
            >{lane === 'size' ? 'file size' : titleOf(lane)}<br /><span class="figure text-[11px]"
              >to {lane === 'size' ? sayBytes(bars.size?.largest ?? 0) : sayFigure(bars[lane]?.largest ?? null)}</span
            ></span
          >{/if}
      </li>
    {/each}
  </ul>
  <!-- The shot's screens move the playhead by keys wherever the focus is; here it can rest. -->
  <div
    class="min-w-0 flex-1"
    bind:clientWidth={width}
    role="slider"
    data-playhead
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
{#if size === 'full'}<ZoomBar />{/if}
