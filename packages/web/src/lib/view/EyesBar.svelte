<!-- What has been watched of the pass, what is left, the sound and a rate on trial, and whether what plays now counts. -->
<script lang="ts">
  import Eye from '@lucide/svelte/icons/eye';
  import { durationSeconds, leftToWatch, type NotWatched } from '@mint-tally/core';
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
  const soundSays = $derived.by(() => {
    const { sound } = viewing;
    if (sound.state === 'none') return '';
    if (sound.state === 'reading') return 'sound: reading …';
    if (sound.state === 'failed') return `no sound: ${sound.problem}`;
    const length = viewing.soundBeyond;
    const beyond =
      length === null || length.frames === 0
        ? ''
        : `, ${Math.abs(length.frames)} frames (${Math.abs(length.seconds).toFixed(2)} s) ${length.frames > 0 ? 'longer' : 'shorter'} than the picture`;
    return `sound ${sound.isMuted ? 'muted' : viewing.isSilent(1) ? 'left out' : 'on'}${beyond}`;
  });
  const soundHint = 'M mutes it. It is left out backwards, back and forth, and at any other speed or rate than the ordered one.';

  const lasts = $derived.by(() => {
    const { trial, orderedRate, course, hold } = viewing;
    if (!trial || !orderedRate) return '';
    const seconds = (rate: typeof trial) => durationSeconds(course.count * hold, rate).toFixed(2);
    return `on trial: ${seconds(trial)} s, not ${seconds(orderedRate)} s`;
  });
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
    {#if soundSays}<span class="text-soft" title={soundHint}>{soundSays}</span>{/if}
    {#if lasts}<span title="How long it lasts at this rate, and as ordered (T)">{lasts}</span>{/if}
    {#if viewing.watching.sights.problem}<span class="text-bad" role="alert">Not saved yet: {viewing.watching.sights.problem}</span>
    {:else if viewing.watching.notWatched !== null}<span class="text-odd">{says}</span>
    {:else if viewing.player.playing}<span class="text-mint">{says}</span>
    {:else}<span class="text-soft">{says}</span>{/if}
  </div>
{/if}
