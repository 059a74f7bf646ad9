<!-- Under the picture: play, where the playhead stands, the rate as ordered and as measured, what is in memory. -->
<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import { formatFrameRate, formatTimecode, loopModes, parseFrameRate, durationSeconds, type LoopMode } from '@mint-tally/core';
  import Select from '$lib/controls/Select.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { sayBytes } from '$lib/text/format';
  import { NORMAL_SPEED, SPEEDS } from './player.svelte';
  import { BUDGETS } from './shown-pictures.svelte';
  import type { Viewing } from './viewing.svelte';

  let { viewing }: { viewing: Viewing } = $props();

  const view = useShotView();
  const { player } = $derived(viewing);
  const { cache } = $derived(viewing.pictures);

  const first = $derived(view.model.frames[viewing.course.first] ?? 0);
  const last = $derived(view.model.frames[viewing.course.last] ?? 0);
  const columns = $derived(viewing.course.count);
  const time = $derived(formatTimecode(view.frame - (view.model.frames[0] ?? 0), viewing.rate));
  const measured = $derived(player.count.measured);
  const wanted = $derived((viewing.rate.numerator / viewing.rate.denominator / viewing.hold) * (SPEEDS[player.speed]![0] / SPEEDS[player.speed]![1]));
  const isSlow = $derived(measured !== null && player.count.seconds > 1 && measured < wanted * 0.97);
  const capacity = $derived.by(() => {
    void cache.version;
    return cache.capacity;
  });
  const heldSeconds = $derived(durationSeconds((capacity ?? 0) * viewing.hold, viewing.rate));
  const isTooSmall = $derived(capacity !== null && capacity < Math.ceil(columns / player.every));

  const trialOptions: readonly (readonly [string, string])[] = ['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60'].map((text) => [text, text]);
  const trial = $derived(viewing.trial ? formatFrameRate(viewing.trial) : '');
  const ordered = $derived(viewing.orderedRate ? formatFrameRate(viewing.orderedRate) : '');

  function chooseRate(text: string) {
    viewing.trial = text === '' ? null : parseFrameRate(text);
    viewing.restart();
  }

  const speedTitle = ([up, down]: readonly [number, number]) => (down === 1 ? `${up} x` : `1/${down}`);
</script>

<div
  class="flex min-h-[40px] shrink-0 flex-wrap items-center small:order-1 gap-x-3 gap-y-1 border-t border-line bg-bar px-4 py-1 text-[13px]"
  role="group"
  aria-label="Play"
>
  <button type="button" class="button" aria-keyshortcuts="P" onclick={() => viewing.toggle()} title={player.playing ? 'Stop (P)' : 'Play (P)'}>
    {#if player.playing}<Pause size={15} aria-hidden="true" />Stop{:else}<Play size={15} aria-hidden="true" />Play{/if}
  </button>
  <span class="figure text-[19px] font-bold">{view.frame}</span>
  <span class="text-soft">of <span class="figure">{first}-{last}</span>{view.selectionSize > 1 ? ' (selection)' : ''}</span>
  <span class="figure">{time}</span>
  <span class="flex-1"></span>
  <Select
    look="quiet"
    labelHidden
    label="Rate"
    class="!max-w-none"
    bind:value={() => trial, (one) => chooseRate(one)}
    options={[['', ordered ? `${ordered} fps as ordered` : `${formatFrameRate(viewing.rate)}, none ordered`], ...trialOptions]}
  />
  <Select
    look="quiet"
    labelHidden
    label="Speed"
    bind:value={
      () => String(player.speed),
      (one) => {
        player.speed = Number(one);
        viewing.restart();
      }
    }
    options={SPEEDS.map((speed, i): [string, string] => [String(i), i === NORMAL_SPEED ? 'full speed' : `speed ${speedTitle(speed)}`])}
  />
  <Select
    look="quiet"
    labelHidden
    label="At the end"
    bind:value={
      () => player.loop,
      (one) => {
        player.loop = one as LoopMode;
        viewing.restart();
      }
    }
    options={loopModes.map((mode): [LoopMode, string] => [mode, mode === 'around' ? 'loop' : mode])}
  />
  <Select
    look="quiet"
    labelHidden
    label="Which frames"
    bind:value={() => String(player.every), (one) => (player.every = Number(one))}
    options={[1, 2, 3, 4, 5, 10].map((every): [string, string] => [String(every), every === 1 ? 'every frame' : `one in ${every}`])}
  />
  <span
    >measured <b class={['figure inline-block w-[5ch] text-right', isSlow ? 'text-bad' : 'text-mint']}>{measured === null ? '–' : measured.toFixed(2)}</b></span
  >
  <span>dropped <b class={['figure inline-block w-[4ch] text-right', player.count.dropped > 0 && 'text-bad']}>{player.count.dropped}</b></span>
  <label class="flex items-center gap-1.5" title="Memory for pictures; what is held stands on the ribbon"
    ><span class="text-soft">in memory</span>
    <b class="figure">{(void cache.version, cache.count)} of {columns}</b>
    <Select
      look="quiet"
      labelHidden
      label="Memory for pictures"
      bind:value={() => String(viewing.pictures.budget), (one) => viewing.pictures.keepBudget(Number(one), localStorage)}
      options={BUDGETS.map((bytes): [string, string] => [String(bytes), sayBytes(bytes)])}
    /></label
  >
</div>
{#if isTooSmall}
  <p class="shrink-0 border-t small:order-1 border-line bg-bar px-4 py-1 text-[13px] text-soft" role="status">
    {sayBytes(cache.budget)} hold <span class="figure">{capacity}</span> frames of this size, <span class="figure">{heldSeconds.toFixed(1)}</span> s of
    <span class="figure">{durationSeconds(columns * viewing.hold, viewing.rate).toFixed(1)}</span> s. To see all without a drop: give it more memory, select a
    part of the range, look at
    <button type="button" class="underline underline-offset-2 hover:text-ink" onclick={() => (player.every = 2)}>every second frame</button>, fetch
    <button type="button" class="underline underline-offset-2 hover:text-ink" onclick={() => viewing.toggleFetched()}
      >{viewing.settings.fetched ? 'whole frames again' : 'only what is visible at 100 %'}</button
    >,
    <button
      type="button"
      class="underline underline-offset-2 hover:text-ink"
      onclick={() => (viewing.settings.reduce = Math.min(8, viewing.settings.reduce * 2))}
      >fewer lines ({viewing.settings.reduce * 2} x {viewing.settings.reduce * 2} pixels as one)</button
    >{#if viewing.settings.reduce > 1}, or
      <button type="button" class="underline underline-offset-2 hover:text-ink" onclick={() => (viewing.settings.reduce = 1)}>all lines again</button>{/if}.
  </p>
{:else if viewing.settings.fetched}
  <p class="shrink-0 border-t small:order-1 border-line bg-bar px-4 py-1 text-[13px] text-soft" role="status">
    Only <span class="figure">{viewing.settings.fetched[2]} x {viewing.settings.fetched[3]}</span> pixels of each frame are fetched.
    <button type="button" class="underline underline-offset-2 hover:text-ink" onclick={() => viewing.toggleFetched()}>Whole frames</button>
  </p>
{:else if viewing.settings.reduce > 1}
  <p class="shrink-0 border-t small:order-1 border-line bg-bar px-4 py-1 text-[13px] text-soft" role="status">
    Seen with fewer lines: {viewing.settings.reduce} x {viewing.settings.reduce} pixels as one. Noise is not judged like this.
    <button type="button" class="underline underline-offset-2 hover:text-ink" onclick={() => (viewing.settings.reduce = 1)}>All lines</button>
  </p>
{/if}
