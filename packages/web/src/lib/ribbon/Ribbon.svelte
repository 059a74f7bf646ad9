<!--
  The spine: one lane a pass, one column a frame, one playhead and one selection for all screens.
  `full` gives each pass a lane of its own; `slim` shows the passes when there is room, else the
  one that is looked at and the worst of all.
-->
<script lang="ts">
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { stateTitles } from '$lib/states/states';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { drawStretches, prepareCanvas, readPalette } from './draw-states';
  import { chooseTicks, layOutLane, stateOfRank, type RibbonLane } from './ribbon-model';

  let { size }: { size: 'full' | 'slim' } = $props();

  const view = useShotView();
  const TOP = 24;
  const SLIM_LANES = 4;

  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);
  let dragFrom: number | null = null;
  let dragMoved = false;

  const lanes: readonly RibbonLane[] = $derived.by(() => {
    const { model } = view;
    if (size === 'full' || model.lanes.length <= SLIM_LANES) return model.lanes;
    return [model.lanes.find((lane) => lane.name === view.pass) ?? model.lanes[0], model.worst];
  });
  const laneHeight = $derived(size === 'slim' ? 15 : lanes.length <= 16 ? 24 : 18);
  const laneGap = $derived(size === 'slim' ? 2 : 4);
  const height = $derived(TOP + lanes.length * laneHeight + 4);
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
    drawTop(context, facts, palette, perColumn);
  }

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

<div class="flex">
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
      ondblclick={() => (view.window = null)}
    ></canvas>
  </div>
</div>
