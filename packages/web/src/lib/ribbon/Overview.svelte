<!-- The whole shot in a line, with the stretch that the ribbon shows; drag it to pan. -->
<script lang="ts">
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { drawStretches, prepareCanvas, readPalette } from './draw-states';
  import { layOutLane } from './ribbon-model';

  const view = useShotView();
  const HEIGHT = 16;
  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);
  let grabbedAt: number | null = null;

  $effect(() => {
    if (!canvas || width === 0) return;
    void currentTheme();
    const { model, shown, column } = view;
    const context = prepareCanvas(canvas, width, HEIGHT);
    if (!context || model.frames.length === 0) return;
    const palette = readPalette(canvas);
    drawStretches(context, layOutLane(model.worst.ranks, 0, model.frames.length, width), 0, 4, HEIGHT - 8, palette);
    const scale = width / model.frames.length;
    context.fillStyle = palette.ink;
    context.fillRect((column + 0.5) * scale - 1, 0, 2, HEIGHT);
    context.strokeStyle = palette.mint;
    context.lineWidth = 1.5;
    context.strokeRect(shown[0] * scale + 0.75, 0.75, Math.max(6, (shown[1] - shown[0]) * scale) - 1.5, HEIGHT - 1.5);
  });

  const columnAt = (event: PointerEvent) => ((event.clientX - canvas!.getBoundingClientRect().left) * view.model.frames.length) / width;

  function press(event: PointerEvent) {
    canvas!.setPointerCapture(event.pointerId);
    const column = columnAt(event);
    const [from, to] = view.shown;
    // A press beside the window brings it there first.
    if (column < from || column > to) view.pan(column - (from + to) / 2);
    grabbedAt = columnAt(event) - view.shown[0];
  }

  function drag(event: PointerEvent) {
    if (grabbedAt !== null) view.pan(columnAt(event) - grabbedAt - view.shown[0]);
  }
</script>

<div class="min-w-0 flex-1" bind:clientWidth={width}>
  <canvas
    bind:this={canvas}
    style="height: {HEIGHT}px"
    class="block w-full cursor-grab touch-none active:cursor-grabbing"
    aria-hidden="true"
    onpointerdown={press}
    onpointermove={drag}
    onpointerup={() => (grabbedAt = null)}
    onpointercancel={() => (grabbedAt = null)}
  ></canvas>
</div>
