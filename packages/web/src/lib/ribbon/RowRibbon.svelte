<!-- A shot's frames in one strip: the worst of all passes. -->
<script lang="ts">
  import { stateRank } from '@mint-tally/core';
  import { currentTheme } from '$lib/states/theme.svelte';
  import { drawStretches, prepareCanvas, readPalette } from './draw-states';
  import { layOutLane } from './ribbon-model';

  let { states }: { states: string } = $props();

  const HEIGHT = 18;
  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(0);

  $effect(() => {
    if (!canvas || width === 0 || states === '') return;
    void currentTheme();
    const context = prepareCanvas(canvas, width, HEIGHT);
    if (context) drawStretches(context, layOutLane(Uint8Array.from(states, stateRank), 0, states.length, width), 0, 0, HEIGHT, readPalette(canvas));
  });
</script>

<div bind:clientWidth={width} class="w-full"><canvas bind:this={canvas} class="block w-full" style="height: {HEIGHT}px" aria-hidden="true"></canvas></div>
