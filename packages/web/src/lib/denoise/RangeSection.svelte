<!-- The whole range, as it goes on or as it ended: progress, what it came to, and what can be done with it. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { strengths } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import { sayFigure } from '$lib/assay/figures';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import type { LiveJob } from '$lib/jobs/live-state';
  import FrameList from '$lib/text/FrameList.svelte';
  import { counted } from '$lib/text/format';
  import { sayStrength, type RangeView } from './denoise-view';

  let {
    shotId,
    range,
    job,
    engines,
    waitsFor,
    isOrdered,
    ontally,
  }: {
    shotId: number;
    range: RangeView;
    /** What works on it; null where nobody does. */
    job: LiveJob | null;
    /** How many engines work on it. */
    engines: number;
    /** What goes before it, where none does. */
    waitsFor: string;
    /** Whether the brief orders the result. */
    isOrdered: boolean;
    /** The tally is gone to, and should show the result. */
    ontally: () => void;
  } = $props();

  const untold = $derived([
    ['Without a file', range.missing] as const,
    ['Not readable', range.unreadable] as const,
    ...range.lights.map(({ pass, missing }) => [`Without ${pass}, which has no file there, or one that is not readable or of another size`, missing] as const),
  ]);
  const inTheWay = $derived(range.toMakeAgain.filter((one) => one.inTheWay !== ''));
  const asideAddress = (one: RangeView['toMakeAgain'][number]) =>
    `/shots/${shotId}/mend?${new URLSearchParams({ do: 'trim', frames: one.inTheWay, pass: one.name }).toString()}`;
  const isGoing = $derived(range.outcome === null && job !== null);
  const says = $derived(
    range.outcome === 'done'
      ? 'done'
      : range.outcome === 'stopped'
        ? `stopped: ${range.done} of ${counted(range.total, 'frame')} in whole parts, and what was begun`
        : isGoing
          ? engines > 1
            ? `goes on, on ${engines} engines`
            : engines === 1
              ? 'goes on'
              : `waits for ${waitsFor}, then goes on`
          : `paused: it goes on behind the last frame that is there`,
  );
</script>

{#snippet action(name: string, title: string, main = false)}
  <form method="POST" action="?/{name}" use:enhance>
    <input type="hidden" name="run" value={range.id} />
    <button type="submit" class={['button button-small', main && 'button-main']}>{title}</button>
  </form>
{/snippet}

<div class="flex flex-wrap items-center gap-x-3 gap-y-2">
  <p role="status">
    <b>{range.target}</b>, {sayStrength(range.strength, strengths)}, {range.frames === 1
      ? 'each frame by itself'
      : `over ${range.frames} frames`}{#if range.lights.length > 0}, with {range.lights.map(({ target }) => target).join(', ')}{/if}: {says}.
  </p>
  {#if isGoing && job}
    {#if engines > 0}<div class="w-[300px]"><JobBar {job} wide canStop={false} /></div>{/if}
    {@render action('pause', 'Pause')}
    {@render action('stop', 'Stop for good')}
  {:else if range.outcome === null}
    {@render action('resume', 'Go on', true)}
    {@render action('stop', 'Stop for good')}
  {:else if isOrdered}
    <a class="button button-small" href="/shots/{shotId}/view?against={encodeURIComponent(`pass:${range.target}`)}&pass={encodeURIComponent(range.pass)}"
      >Watch beside {range.pass}</a
    >
    <a class="button button-small" href="/shots/{shotId}/tally" onclick={ontally}>Its tally</a>
  {/if}
</div>
{#if range.told > 0}
  <p class="mt-1 text-[13px] text-soft">
    Noise <span class="figure">{sayFigure(range.noiseBefore)}</span> before, <span class="figure">{sayFigure(range.noise)}</span> after; in time
    <span class="figure">{sayFigure(range.temporalBefore)}</span>
    before, <span class="figure">{sayFigure(range.temporalNoise)}</span> after{range.told < range.written
      ? `; means over ${range.told} of ${counted(range.written, 'frame')}: the others were there already`
      : ''}.
    {#if range.holes > 0}{counted(range.holes, 'pixel')} that {range.holes === 1 ? 'is no number stays as it is' : 'are no numbers stay as they are'}.{/if}
    {#if range.lacking.length > 0}Would have helped, and is not there: {range.lacking.join(', ')}.{/if}
  </p>
{/if}
{#if range.outcome === 'done' && isOrdered && range.toMakeAgain.length > 0}
  <div class="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-[3px] border-bad bg-ground px-3 py-1.5 text-[13px]">
    <p>
      To be made again, by the newest count:
      {#each range.toMakeAgain as { name, frames }, at (name)}{at > 0 ? '; ' : ''}<span class="figure"><FrameList text={frames} /></span> of
        <span class="[overflow-wrap:anywhere]">{name}</span>{/each}.
      {#if inTheWay.length > 0}What is there of it lies in the way: nothing is written over.{/if}
    </p>
    {#each inTheWay as one (one.name)}<a class="button button-small" href={asideAddress(one)}>Set aside {one.inTheWay} of {one.name}…</a
      >{:else}{@render again()}{/each}
  </div>
{/if}
{#snippet again()}
  <form method="POST" action="?/begin" use:enhance>
    <input type="hidden" name="purpose" value="range" />
    <input type="hidden" name="pass" value={range.pass} />
    <input type="hidden" name="frames" value={range.frames} />
    <input type="hidden" name="strengths" value={range.strength} />
    <input type="hidden" name="range" value={range.range} />
    <input type="hidden" name="withLights" value={range.lights.length > 0 ? 'yes' : 'no'} />
    <button type="submit" class="button button-small button-main">Make them again</button>
  </form>
{/snippet}
{#each untold as [title, frames] (title)}
  {#if frames !== ''}<p class="mt-1 flex items-baseline gap-1.5 text-[13px]">
      {title}: <FrameList text={frames} /><CopyButton text={frames} label="Copy the frames" mark small />
    </p>{/if}
{/each}
