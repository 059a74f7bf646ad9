<!-- What is drawn over the picture and is none of it: safe areas, thirds, and the values inside the pixels where there is room. -->
<script lang="ts">
  import { valuesAt, type SentPicture } from '@mint-tally/core';
  import { panOf, zoomOf, type Screen } from './drawing';
  import type { Viewing } from './viewing.svelte';

  let {
    viewing,
    picture,
    screen,
    notes,
  }: { viewing: Viewing; picture: SentPicture; screen: Screen; /** Rectangles of the notes on this frame. */ notes: readonly Rectangle[] } = $props();

  const { settings, player } = $derived(viewing);
  const zoom = $derived(zoomOf(picture, settings, screen));
  const pan = $derived(panOf(picture, settings, screen, zoom));
  const size = $derived([
    (picture.info.displayWindow[2] - picture.info.displayWindow[0] + 1) * zoom[0],
    (picture.info.displayWindow[3] - picture.info.displayWindow[1] + 1) * zoom[1],
  ] as const);
  /** Shares of width and height inside which action and titles are safe (SMPTE ST 2046-1). */
  const SAFE = [0.93, 0.9] as const;
  /** Device pixels that a pixel needs for its values. */
  const ROOM = 44;

  type Rectangle = readonly [number, number, number, number];
  const onScreen = ([left, top, width, height]: Rectangle) => ({
    x: pan[0] + left * zoom[0],
    y: pan[1] + top * zoom[1],
    width: width * zoom[0],
    height: height * zoom[1],
  });

  interface Cell {
    readonly x: number;
    readonly y: number;
    readonly lines: readonly string[];
  }
  const say = (value: number) => (Number.isInteger(value) && Math.abs(value) < 1e5 ? String(value) : value.toPrecision(3));
  const cells = $derived.by((): Cell[] => {
    if (player.playing || zoom[1] < ROOM || viewing.pictures.partner !== null) return [];
    const made: Cell[] = [];
    const [left, top] = [Math.max(0, Math.floor(-pan[0] / zoom[0])), Math.max(0, Math.floor(-pan[1] / zoom[1]))];
    for (let y = top; pan[1] + y * zoom[1] < screen.height; y++) {
      for (let x = left; pan[0] + x * zoom[0] < screen.width; x++) {
        const values = valuesAt(picture, x, y);
        if (values.length > 0) made.push({ x, y, lines: values.map(({ value }) => say(value)) });
      }
    }
    return made;
  });
</script>

<svg class="pointer-events-none absolute inset-0 h-full w-full" viewBox="0 0 {screen.width} {screen.height}" preserveAspectRatio="none" aria-hidden="true">
  {#if settings.safeAreas}
    {#each SAFE as share (share)}
      <rect
        x={pan[0] + (size[0] * (1 - share)) / 2}
        y={pan[1] + (size[1] * (1 - share)) / 2}
        width={size[0] * share}
        height={size[1] * share}
        class="fill-none stroke-white [paint-order:stroke]"
        stroke-width="1"
        stroke-dasharray={share === SAFE[0] ? '' : '6 4'}
      />
    {/each}
  {/if}
  {#if settings.grid}
    {#each [1 / 3, 2 / 3] as share (share)}
      <line x1={pan[0] + size[0] * share} x2={pan[0] + size[0] * share} y1={pan[1]} y2={pan[1] + size[1]} class="stroke-white/70" />
      <line x1={pan[0]} x2={pan[0] + size[0]} y1={pan[1] + size[1] * share} y2={pan[1] + size[1] * share} class="stroke-white/70" />
    {/each}
  {/if}
  {#if picture.info.damage.length > 0}
    <defs>
      <pattern id="damage" width="10" height="10" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
        ><rect width="5" height="10" class="fill-[#ff7a6b]/45" /></pattern
      >
    </defs>
  {/if}
  {#each picture.info.damage as [left, top, width, height], i (i)}
    <rect
      {...onScreen([
        left + picture.info.dataWindow[0] - picture.info.displayWindow[0],
        top + picture.info.dataWindow[1] - picture.info.displayWindow[1],
        width,
        height,
      ])}
      fill="url(#damage)"
      class="stroke-[#ff7a6b]"
      stroke-width="2"
    />
  {/each}
  {#each notes as rectangle, i (i)}
    <rect {...onScreen(rectangle)} class="fill-none stroke-[#ffd27a]" stroke-width="2" />
  {/each}
  {#if viewing.region}
    <rect {...onScreen(viewing.region)} class="fill-none stroke-black/70" stroke-width="3" />
    <rect {...onScreen(viewing.region)} class="fill-none stroke-white" stroke-width="1" stroke-dasharray="5 3" />
  {/if}
  {#if viewing.pinned}
    {@const [x, y] = [pan[0] + (viewing.pinned[0] + 0.5) * zoom[0], pan[1] + (viewing.pinned[1] + 0.5) * zoom[1]]}
    <path d="M{x - 9} {y}h6M{x + 3} {y}h6M{x} {y - 9}v6M{x} {y + 3}v6" class="stroke-black/70" stroke-width="3" />
    <path d="M{x - 9} {y}h6M{x + 3} {y}h6M{x} {y - 9}v6M{x} {y + 3}v6" class="stroke-white" stroke-width="1" />
  {/if}
  {#each cells as { x, y, lines } (`${x} ${y}`)}
    <text
      class="figure fill-white stroke-black [paint-order:stroke]"
      stroke-width="2"
      font-size={Math.min(12, zoom[1] / 4.6)}
      text-anchor="middle"
      x={pan[0] + (x + 0.5) * zoom[0]}
      y={pan[1] + (y + 0.5) * zoom[1] - ((lines.length - 1) / 2) * Math.min(12, zoom[1] / 4.6)}
    >
      {#each lines as line, i (i)}<tspan x={pan[0] + (x + 0.5) * zoom[0]} dy={i === 0 ? '0.35em' : '1em'}>{line}</tspan>{/each}
    </text>
  {/each}
</svg>
