<!-- The noise of the frame's tiles over its picture, as the assay measured it, and its fireflies. -->
<script lang="ts">
  import type { SentPicture } from '@mint-tally/core';
  import FireflyMarks from '$lib/assay/FireflyMarks.svelte';
  import { heatOf } from '$lib/assay/paint-heat';
  import { heatReference } from '$lib/assay/tiles';
  import { panOf, zoomOf, type Screen } from './drawing';
  import type { Viewing } from './viewing.svelte';

  let {
    viewing,
    picture,
    screen,
    target,
  }: { viewing: Viewing; picture: SentPicture; screen: Screen; /** What was ordered; null for nothing. */ target: number | null } = $props();

  /** Of a ring around a firefly, in pixels of the screen. */
  const RING = 9;

  const zoom = $derived(zoomOf(picture, viewing.settings, screen));
  const pan = $derived(panOf(picture, viewing.settings, screen, zoom));
  const tiles = $derived(viewing.noise && 'tiles' in viewing.noise ? viewing.noise.tiles : null);
  const heat = $derived(tiles && heatOf(tiles, heatReference(tiles.sigmas, target)));
  /** Tiles begin where the picture's samples do. */
  const offset = $derived([picture.info.dataWindow[0] - picture.info.displayWindow[0], picture.info.dataWindow[1] - picture.info.displayWindow[1]] as const);
  const at = $derived([pan[0] + offset[0] * zoom[0], pan[1] + offset[1] * zoom[1]] as const);
</script>

{#if heat && tiles}
  <svg class="pointer-events-none absolute inset-0 h-full w-full" viewBox="0 0 {screen.width} {screen.height}" preserveAspectRatio="none" aria-hidden="true">
    <defs><clipPath id="picture-of-noise"><rect x={at[0]} y={at[1]} width={tiles.width * zoom[0]} height={tiles.height * zoom[1]} /></clipPath></defs>
    <image
      href={heat.address}
      x={at[0]}
      y={at[1]}
      width={heat.width * zoom[0]}
      height={heat.height * zoom[1]}
      preserveAspectRatio="none"
      class="[image-rendering:pixelated]"
      clip-path="url(#picture-of-noise)"
    />
    {#each tiles.worst as { place }, i (i)}
      <rect
        x={at[0] + place[0] * zoom[0]}
        y={at[1] + place[1] * zoom[1]}
        width={place[2] * zoom[0]}
        height={place[3] * zoom[1]}
        class="fill-none stroke-white"
        stroke-width="1.5"
      />
    {/each}
    <FireflyMarks places={tiles.fireflies?.places ?? []} toX={(x) => at[0] + x * zoom[0]} toY={(y) => at[1] + y * zoom[1]} radius={RING} />
  </svg>
{/if}
