<!-- The frame under the playhead with the noise of its tiles over it, with its fireflies, or with what its lights lack; a region of it is chosen here, by dragging, by number or by name. -->
<script lang="ts">
  import { roughly, type Rectangle } from '@mint-tally/core';
  import Segments from '$lib/controls/Segments.svelte';
  import { askSum, type AskedSum } from './ask-sum';
  import { askTiles, type AskedTiles } from './ask-tiles';
  import { sayFigure } from './figures';
  import FireflyMarks from './FireflyMarks.svelte';
  import HeatLegend from './HeatLegend.svelte';
  import { heatOf } from './paint-heat';
  import { counted } from '$lib/text/format';
  import { heatReference } from './tiles';

  let {
    shotId,
    countedAt,
    measuredAt,
    pass,
    frame,
    target,
    hasLights,
    marks = 'noise',
    resolution = null,
    region,
    onregion,
  }: {
    shotId: number;
    /** When the files were counted: its picture is another after each count. */
    countedAt: string;
    /** When its noise was measured; empty where it has not been. */
    measuredAt: string;
    pass: string;
    frame: number;
    /** Of the brief; null where it asks for none. */
    target: number | null;
    /** Whether it is the beauty, and lights were ordered that sum to it. */
    hasLights: boolean;
    /** What lies over the picture until something else is chosen. */
    marks?: 'noise' | 'fireflies';
    /** Of the picture, where its noise does not tell it; null where nobody knows. */
    resolution?: readonly [number, number] | null;
    region: Rectangle | null;
    onregion: (region: Rectangle | null) => void;
  } = $props();

  let asked = $state.raw<AskedTiles | null>(null);
  let chosen = $derived<'noise' | 'fireflies' | 'lights' | 'nothing'>(marks);
  const over = $derived(chosen === 'lights' && !hasLights ? 'noise' : chosen);
  const shown = $derived(over === 'noise');
  /** Of a ring around a firefly, in pixels of the screen; of a region around one, in those of the picture; and how many are named. */
  const RING = 7;
  const AROUND = 16;
  const NAMED = 8;

  let drag: { from: readonly [number, number]; to: readonly [number, number] } | null = $state(null);

  /** Which frame the answer is of: until it has come, the noise of another must not lie over this one. */
  let askedFor = $state('');
  $effect(() => {
    const own = `${pass} ${frame}`;
    // Measured again, its noise may be another.
    void measuredAt;
    return askTiles(shotId, pass, frame, (answer) => {
      asked = answer;
      askedFor = own;
    });
  });

  let sum = $state.raw<(AskedSum & { frame: number }) | null>(null);
  $effect(() => {
    if (over !== 'lights') return;
    const own = frame;
    // Counted again, its files may be others.
    void countedAt;
    return askSum(shotId, own, (answer) => (sum = { ...answer, frame: own }));
  });
  const ownSum = $derived(over === 'lights' && sum?.frame === frame ? sum : null);

  const tiles = $derived(asked && 'tiles' in asked ? asked.tiles : null);
  const reference = $derived(tiles ? heatReference(tiles.sigmas, target) : 1);
  const isCurrent = $derived(askedFor === `${pass} ${frame}`);
  const heat = $derived(tiles && shown && isCurrent ? heatOf(tiles, reference) : null);
  const fireflies = $derived(over === 'fireflies' && isCurrent ? (tiles?.fireflies ?? null) : null);
  /** How wide the picture is on the screen, in its pixels. */
  let shownWidth = $state(0);
  const still = $derived(`/shots/${shotId}/still?${new URLSearchParams({ pass, frame: String(frame), counted: countedAt }).toString()}`);
  const size = $derived(tiles ?? (resolution ? { width: resolution[0], height: resolution[1] } : { width: 16, height: 9 }));
  const dragged = $derived.by((): Rectangle | null => {
    if (!drag) return null;
    const { from, to } = drag;
    const [left, top] = [Math.min(from[0], to[0]), Math.min(from[1], to[1])];
    return [left, top, Math.abs(from[0] - to[0]), Math.abs(from[1] - to[1])];
  });
  const marked = $derived(dragged ?? region);

  function placeOf(event: PointerEvent): readonly [number, number] {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const share = (value: number, from: number, length: number, most: number) => Math.round(Math.min(1, Math.max(0, (value - from) / length)) * most);
    return [share(event.clientX, box.left, box.width, size.width), share(event.clientY, box.top, box.height, size.height)];
  }

  function endDrag() {
    if (dragged && dragged[2] >= 4 && dragged[3] >= 4) onregion(dragged);
    drag = null;
  }

  const sides = ['left', 'top', 'wide', 'high'] as const;
  function setSide(side: number, value: number) {
    if (!Number.isFinite(value)) return;
    const sides = [...(region ?? [0, 0, size.width, size.height])] as [number, number, number, number];
    sides[side] = Math.max(side > 1 ? 1 : 0, Math.round(value));
    onregion(sides);
  }
</script>

<section class="flex min-w-0 flex-col gap-2" aria-label="Where the noise is">
  <div class="flex flex-wrap items-center gap-x-3 gap-y-1 text-[13px]">
    <h2 class="font-bold">{pass} <span class="figure">{frame}</span></h2>
    <Segments
      label="Over the picture"
      value={over}
      options={[
        ['noise', 'noise'],
        ['fireflies', 'fireflies', 'Single pixels far brighter than all around them'],
        ...(hasLights ? [['lights', 'lights', 'Where the light passes do not sum to the beauty'] as const] : []),
        ['nothing', 'nothing'],
      ]}
      onchoose={(one) => (chosen = one)}
    />
    {#if region}<button type="button" class="button button-small" onclick={() => onregion(null)}>Whole picture</button>{/if}
  </div>
  <div
    class="relative w-full touch-none overflow-hidden rounded bg-black select-none"
    bind:clientWidth={shownWidth}
    style="aspect-ratio: {size.width} / {size.height}; cursor: crosshair"
    role="presentation"
    onpointerdown={(event) => {
      if ((!tiles && !resolution) || event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const from = placeOf(event);
      drag = { from, to: from };
    }}
    onpointermove={(event) => drag && (drag = { ...drag, to: placeOf(event) })}
    onpointerup={endDrag}
    onpointercancel={() => (drag = null)}
  >
    <img src={still} alt="{pass} frame {frame}" class="absolute inset-0 h-full w-full object-fill" draggable="false" />
    <svg class="pointer-events-none absolute inset-0 h-full w-full" viewBox="0 0 {size.width} {size.height}" preserveAspectRatio="none" aria-hidden="true">
      {#if heat}<image href={heat.address} width={heat.width} height={heat.height} preserveAspectRatio="none" class="[image-rendering:pixelated]" />{/if}
      {#if ownSum && 'address' in ownSum}<image
          href={ownSum.address}
          width={size.width}
          height={size.height}
          preserveAspectRatio="none"
          class="[image-rendering:pixelated]"
        />{/if}
      {#each tiles?.worst ?? [] as { place }, i (i)}
        {#if shown && isCurrent}<rect
            x={place[0]}
            y={place[1]}
            width={place[2]}
            height={place[3]}
            class="fill-none stroke-white"
            stroke-width="1.5"
            vector-effect="non-scaling-stroke"
          />{/if}
      {/each}
      {#if fireflies}<FireflyMarks places={fireflies.places} toX={(x) => x} toY={(y) => y} radius={(RING * size.width) / Math.max(1, shownWidth)} />{/if}
      {#if marked}<rect
          x={marked[0]}
          y={marked[1]}
          width={marked[2]}
          height={marked[3]}
          class="fill-none stroke-[#6ee8b2]"
          stroke-width="2"
          stroke-dasharray="6 4"
          vector-effect="non-scaling-stroke"
        />{/if}
    </svg>
    {#if asked && (shown || over === 'fireflies') && isCurrent && 'why' in asked}<p
        class="absolute inset-x-0 bottom-0 bg-black/75 px-2 py-1 text-[13px] text-white"
        role="status"
      >
        {asked.why}
      </p>{/if}
  </div>
  {#if over === 'lights'}
    <p class="flex flex-wrap items-center gap-x-3 gap-y-1 text-[13px]" role="status">
      {#if !ownSum}Adding up the lights …
      {:else if 'why' in ownSum}{ownSum.why}
      {:else if ownSum.share === 0}The lights sum to the beauty in every pixel.
      {:else}<span>They miss the beauty in <span class="figure">{roughly(ownSum.share * 100)} %</span> of the pixels:</span>
        <span class="flex items-center gap-1"><span class="inline-block h-3 w-4 bg-[rgb(255_122_89)]"></span>too little light</span>
        <span class="flex items-center gap-1"><span class="inline-block h-3 w-4 bg-[rgb(122_176_255)]"></span>too much</span>{/if}
    </p>
  {/if}
  {#if over === 'fireflies' && tiles && isCurrent}
    <p class="flex flex-wrap items-baseline gap-x-3 gap-y-1 text-[13px]">
      {#if !fireflies}<span class="text-soft">Where its fireflies are was not kept: measure again.</span>
      {:else if fireflies.count === 0}<span class="text-soft">No fireflies in this frame.</span>
      {:else}<span>{counted(fireflies.count, 'firefly', 'fireflies')}:</span>
        {#each fireflies.places.slice(0, NAMED) as [x, y], i (i)}
          <button
            type="button"
            class="figure underline decoration-control underline-offset-3"
            title="The region around it: figures of this region alone"
            onclick={() => onregion([Math.max(0, x - AROUND), Math.max(0, y - AROUND), 2 * AROUND, 2 * AROUND])}>{x}, {y}</button
          >
        {/each}
        {#if fireflies.count > NAMED}<span class="text-soft">and {fireflies.count - NAMED} more</span>{/if}{/if}
    </p>
  {/if}
  {#if tiles && over !== 'fireflies'}
    {#if shown}<HeatLegend sigmas={tiles.sigmas} ordered={target} />{/if}
    <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 text-[13px]">
      {#if tiles.worst.length > 0}<span class="text-soft">Noisiest:</span>{:else}<span class="text-soft"
          >No part of this frame is twice as noisy as most of it.</span
        >{/if}
      {#each tiles.worst as { place, noise, says }, i (i)}
        <button
          type="button"
          class="underline decoration-control underline-offset-3"
          title="{place[2]} x {place[3]} pixels at {place[0]}, {place[1]}: figures of this region alone"
          onclick={() => onregion([place[0], place[1], place[2], place[3]])}>{says} <span class="figure">{sayFigure(noise)}</span></button
        >
      {/each}
    </div>
  {/if}
  {#if tiles}
    <fieldset class="grid grid-cols-4 gap-1 text-[12px] text-soft">
      <legend class="mb-0.5">Region, in pixels: drag in the picture, or</legend>
      {#each sides as side, i (side)}
        <label
          >{side}<input
            type="number"
            class="field figure !px-1 !py-0.5 text-[12px]"
            value={(region ?? [0, 0, size.width, size.height])[i]}
            min={i > 1 ? 1 : 0}
            onchange={(event) => setSide(i, event.currentTarget.valueAsNumber)}
          /></label
        >
      {/each}
    </fieldset>
  {/if}
</section>
