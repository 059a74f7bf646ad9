<!-- A line as long as the shot with some of its frames marked, in the shapes of the ribbon. -->
<script lang="ts">
  import { frameStates, stateRank, type FrameSet, type FrameState } from '@mint-tally/core';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { drawStretches, prepareCanvas, readPalette } from './draw-states';
  import { layOutLane, NOT_ORDERED } from './ribbon-model';

  let { all, frames, mark }: { all: Int32Array; frames: FrameSet; mark: FrameState | null } = $props();

  const HEIGHT = 9;
  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);

  $effect(() => {
    if (!canvas || width === 0 || all.length === 0) return;
    void currentTheme();
    const context = prepareCanvas(canvas, width, HEIGHT);
    if (!context) return;
    const palette = readPalette(canvas);
    context.fillStyle = palette.line;
    context.fillRect(0, HEIGHT / 2 - 1.5, width, 3);
    const ranks = new Uint8Array(all.length).fill(NOT_ORDERED);
    all.forEach((frame, column) => frames.has(frame) && (ranks[column] = stateRank(frameStates[mark ?? 'later'])));
    const stretches = layOutLane(ranks, 0, all.length, width);
    context.fillStyle = palette.ground;
    for (const { x, width: wide } of stretches) context.fillRect(x - 1, 0, wide + 2, HEIGHT);
    drawStretches(context, stretches, 0, 0, HEIGHT, palette);
  });
</script>

<div bind:clientWidth={width} class="w-full"><canvas bind:this={canvas} class="block w-full" style="height: {HEIGHT}px" aria-hidden="true"></canvas></div>
