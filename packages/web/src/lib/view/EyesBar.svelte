<!-- What has been watched of the pass, what is left, and whether what plays now counts. -->
<script lang="ts">
  import Eye from '@lucide/svelte/icons/eye';
  import { leftToWatch, type NotWatched } from '@mint-tally/core';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import type { Viewing } from './viewing.svelte';

  let { state: shot, viewing }: { state: ShotState; viewing: Viewing } = $props();

  const view = useShotView();
  const eyes = $derived(viewing.watching.eyes.find(({ pass }) => pass === view.pass) ?? null);
  const left = $derived(eyes && leftToWatch(eyes));
  const files = $derived(eyes && left ? eyes.watched.size + left.size : 0);
  /** The pass that is to be watched next, when this one has been. */
  const next = $derived(viewing.watching.eyes.find((one) => one.wanted && one.pass !== view.pass && !leftToWatch(one).isEmpty) ?? null);
  const whyNot: Record<NotWatched, string> = {
    'not itself': 'not recorded: compared, one channel, or false colours',
    'other rate': 'not recorded: another rate or speed than ordered',
    smaller: 'recorded apart: smaller than 100 %',
    standing: '',
  };
  const says = $derived(viewing.watching.notWatched === null ? 'recorded as watched while it plays' : whyNot[viewing.watching.notWatched]);
</script>

{#if shot.count !== null && files > 0 && eyes && left}
  <div
    class="flex min-h-[34px] shrink-0 flex-wrap items-center gap-x-3 gap-y-0.5 border-t border-line bg-bar px-4 py-0.5 text-[13px] small:order-1"
    role="group"
    aria-label="Eyes"
  >
    <Eye size={15} aria-hidden="true" class={left.isEmpty ? 'text-mint' : 'text-soft'} />
    {#if left.isEmpty}
      <span><b>All <span class="figure">{files}</span> frames watched</b> at full rate and size</span>
    {:else}
      <span>
        <b class="figure">{eyes.watched.size} of {files}</b> watched at full rate and size{eyes.wanted ? '' : '; the brief does not ask for it'}
      </span>
      <span class="text-soft">left <span class="figure inline-block max-w-[24ch] truncate align-bottom" title={left.toString()}>{left.toString()}</span></span>
      <button type="button" class="button button-small" title="What is left, at the ordered rate and 100 % (L)" onclick={() => viewing.watching.playLeft(eyes)}
        >{eyes.partly.size === left.size ? 'Play the next part' : 'Play what is left'}</button
      >
    {/if}
    {#if left.isEmpty && next}
      <button type="button" class="button button-small" onclick={() => viewing.watching.playLeft(next)}>Go on with {next.pass}</button>
    {/if}
    <span class="flex-1"></span>
    {#if viewing.watching.sights.problem}<span class="text-bad" role="alert">Not saved yet: {viewing.watching.sights.problem}</span>
    {:else if viewing.watching.notWatched !== null}<span class="text-odd">{says}</span>
    {:else if viewing.player.playing}<span class="text-mint">{says}</span>
    {:else}<span class="text-soft">{says}</span>{/if}
  </div>
{/if}
