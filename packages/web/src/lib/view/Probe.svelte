<!-- The values of a pixel in every pass, as the files have them, and along the frames that are in memory. -->
<script lang="ts">
  import { valuesAt, type SentPicture } from '@mint-tally/core';
  import * as z from 'zod';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { sayValue } from './say-value';
  import type { Viewing } from './viewing.svelte';

  let { viewing, picture }: { viewing: Viewing; picture: SentPicture | null } = $props();

  const view = useShotView();
  const at = $derived(viewing.pinned ?? viewing.pointed);
  const values = $derived(picture && at ? valuesAt(picture, ...at) : []);

  const probedSchema = z.array(
    z.object({
      pass: z.string(),
      why: z.string(),
      values: z.array(
        z.object({ channel: z.string(), type: z.enum(['u8', 'u16', 'uint', 'half', 'float']), value: z.union([z.number(), z.string().transform(Number)]) }),
      ),
    }),
  );
  /** Of all passes, where the pointer rests or a pixel is pinned. */
  let probed = $state.raw<z.output<typeof probedSchema>>([]);
  const ownFirst = $derived([...probed].sort((a, b) => Number(b.pass === view.pass) - Number(a.pass === view.pass)));
  const place = $derived(at && !viewing.player.playing ? `${view.frame} ${at.join(' ')}` : '');
  $effect(() => {
    // Files that were counted anew may hold other values.
    void viewing.pictures.list;
    if (place === '') return;
    const [frame, x, y] = place.split(' ') as [string, string, string];
    const stop = new AbortController();
    const timer = setTimeout(async () => {
      try {
        const response = await fetch(`${viewing.address}/pixel?${new URLSearchParams({ frame, x, y }).toString()}`, { signal: stop.signal });
        probed = response.ok ? probedSchema.parse(await response.json()) : [];
      } catch {
        // What stands in memory is told all the same.
        if (!stop.signal.aborted) probed = [];
      }
    }, 250);
    return () => {
      clearTimeout(timer);
      stop.abort();
      probed = [];
    };
  });

  const [WIDE, TALL] = [240, 56];
  /** The pinned pixel's first channel along the frames in memory. */
  const curve = $derived.by(() => {
    void viewing.pictures.cache.version;
    if (!viewing.pinned || viewing.player.playing) return null;
    const points: { column: number; value: number }[] = [];
    view.model.frames.forEach((_, column) => {
      const held = viewing.pictures.cache.get(column);
      const [first] = held && 'picture' in held ? valuesAt(held.picture, ...viewing.pinned!) : [];
      if (first && Number.isFinite(first.value)) points.push({ column, value: first.value });
    });
    if (points.length < 2) return null;
    const [low, high] = [Math.min(...points.map(({ value }) => value)), Math.max(...points.map(({ value }) => value))];
    const x = (column: number) => ((column + 0.5) / view.model.frames.length) * WIDE;
    const y = (value: number) => TALL - 2 - ((value - low) / (high - low || 1)) * (TALL - 4);
    return {
      low,
      high,
      line: points.map(({ column, value }) => `${x(column).toFixed(1)},${y(value).toFixed(1)}`).join(' '),
      head: x(view.column),
      count: points.length,
    };
  });
</script>

<div class="mt-4 mb-1 flex items-baseline justify-between">
  <h2 class="!m-0">
    Pixel <span class="figure font-normal">{at ? at.join(', ') : ''}</span>{#if viewing.pinned}<span class="font-normal text-soft">, pinned</span>{/if}
  </h2>
  {#if viewing.pinned}<button type="button" class="button button-small" onclick={() => (viewing.pinned = null)}>Let go</button>{/if}
</div>
{#if values.length > 0 && probed.length === 0}
  <dl class="grid grid-cols-[1fr_auto] gap-x-2">
    {#each values as { channel, value } (channel)}<dt class="truncate text-soft" title={channel}>{channel}</dt>
      <dd class="figure text-right">{sayValue(value, picture!.info.type)}</dd>{/each}
  </dl>
{:else if probed.length > 0}
  {#each ownFirst as one (one.pass)}
    <p class={['truncate', one.pass === view.pass ? 'font-bold' : 'text-soft']} title={one.pass}>{one.pass}</p>
    {#if one.why}<p class="text-soft">{one.why}</p>{:else if one.values.length === 0}<p class="text-soft">nothing there</p>{/if}
    <dl class="grid grid-cols-[1fr_auto] gap-x-2 pl-2">
      {#each one.values as { channel, type, value } (channel)}<dt class="truncate text-soft" title="{channel}, {type}">{channel}</dt>
        <dd class="figure text-right">{sayValue(value, type)}</dd>{/each}
    </dl>
  {/each}
{:else}<p class="text-soft">Point at the picture for its values, as the files have them. A click pins the pixel.</p>{/if}
{#if curve}
  <figure class="mt-1.5">
    <svg
      viewBox="0 0 {WIDE} {TALL}"
      class="block w-full border border-line bg-ground"
      role="img"
      aria-label="{values[0]?.channel} from {curve.low} to {curve.high} over {curve.count} frames in memory"
    >
      <polyline points={curve.line} class="fill-none stroke-mint" stroke-width="1.2" />
      <line x1={curve.head} x2={curve.head} y1="0" y2={TALL} class="stroke-ink" stroke-width="1" />
    </svg>
    <figcaption class="flex justify-between text-[12px] text-soft">
      <span>{values[0]?.channel} over <span class="figure">{curve.count}</span> frames</span>
      <span class="figure">{sayValue(curve.low, picture?.info.type ?? 'half')} to {sayValue(curve.high, picture?.info.type ?? 'half')}</span>
    </figcaption>
  </figure>
{/if}
<div class="mt-1.5 flex items-center gap-2">
  {#each ['across', 'down'] as const as side, i (side)}
    <label class="flex items-center gap-1 text-soft"
      >{side}
      <input
        type="number"
        class="field figure w-[64px] !py-0.5 text-[12px]"
        value={viewing.pinned?.[i] ?? ''}
        oninput={(event) => viewing.pin(i, event.currentTarget.valueAsNumber)}
      /></label
    >
  {/each}
</div>
