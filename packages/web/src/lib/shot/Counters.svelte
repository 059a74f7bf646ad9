<!-- The sums of the shot, and how old they are. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { countStates, fileCountOf, FrameSet, formatFrameRange, frameStates, parseFrameRange, type FrameState } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import StateMark from '$lib/states/StateMark.svelte';
  import { stateMeanings, stateTitles } from '$lib/states/states';
  import { counted, formatAgo, sayBytes, formatCount } from '$lib/text/format';

  let { state: shot }: { state: ShotState } = $props();

  const live = useLive();
  const job = $derived(live.active(shot.shot.id, 'count'));
  const isCounted = $derived(shot.count !== null && !shot.count.stale);
  // Every ordered frame is in exactly one state: what stands here adds up to what was ordered.
  const sums = $derived(countStates(shot.lanes));
  const expected = $derived(Object.values(sums).reduce((sum, count) => sum + count, 0));
  const figures: readonly FrameState[] = ['missing', 'broken', 'wrong', 'odd', 'waived', 'later'];
  /** Always shown; the others only where there are some. */
  const usual: readonly FrameState[] = ['missing', 'broken', 'wrong', 'odd'];
  const unordered = $derived(
    shot.findings.filter(({ code }) => code === 'unexpected-frame' || code === 'unplanned-sequence').reduce((sum, finding) => sum + fileCountOf(finding), 0),
  );

  /** The frames in a state as text: one range when all passes share it, else a line a pass. */
  function rangesOf(state: FrameState): string {
    const lines = shot.lanes.flatMap((lane) => {
      const frames = parseFrameRange(lane.frames).frames.filter((_, i) => lane.states[i] === frameStates[state]);
      return frames.length > 0 ? [{ pass: lane.pass, range: formatFrameRange(FrameSet.of(frames)) }] : [];
    });
    if (lines.length > 0 && lines.length === shot.lanes.length && new Set(lines.map((line) => line.range)).size === 1) return lines[0].range;
    return lines.map((line) => `${line.pass} ${line.range}`).join('\n');
  }

  let now = $state(Date.now());
  $effect(() => {
    const timer = setInterval(() => (now = Date.now()), 1000);
    return () => clearInterval(timer);
  });
</script>

<div class="flex min-h-[66px] shrink-0 flex-wrap items-center gap-x-5 gap-y-2 border-b border-line px-4.5 py-1.5">
  <div class="shrink-0 whitespace-nowrap">
    <span class={['figure leading-none', expected < 100_000 ? 'text-[38px]' : 'text-[30px]', !isCounted && 'text-soft']} data-testid="sound"
      >{isCounted ? formatCount(sums.sound) : '–'}</span
    >
    <span class="figure ml-3 text-[16px] text-soft">of {formatCount(expected)} sound</span>
  </div>
  {#if isCounted}
    {#each figures as state (state)}
      {@const number = sums[state]}
      {#if number > 0 || usual.includes(state)}
        <div data-testid={state} title={stateMeanings[state]}>
          <div class="flex items-center gap-2">
            <StateMark {state} size={13} /><span class={['figure text-[20px] leading-tight', number > 0 ? 'text-ink' : 'text-soft']}>{formatCount(number)}</span
            >
          </div>
          <div class="text-[13px] whitespace-nowrap text-soft">{stateTitles[state]}</div>
        </div>
        {#if number > 0 && (state === 'missing' || state === 'broken' || state === 'wrong')}<span class="-ml-3"
            ><CopyButton small mark text={rangesOf(state)} label="Copy the {stateTitles[state]} frames as ranges" /></span
          >{/if}
      {/if}
    {/each}
    {#if unordered > 0}
      <div
        class="border-l border-line pl-5"
        data-testid="unordered"
        title="Files with numbers or names that nobody ordered; they are not among the frames counted here"
      >
        <div class="figure text-[20px] leading-tight">{formatCount(unordered)}</div>
        <div class="text-[13px] whitespace-nowrap text-soft">not ordered</div>
      </div>
    {/if}
  {/if}
  {#if job}
    <div class="ml-auto w-[430px] min-w-0"><JobBar {job} wide waits={live.waits(shot.shot.id, 'count')} /></div>
  {:else}
    <div class="ml-auto flex min-w-0 items-center gap-3">
      <span class="truncate text-right text-[13px] leading-snug whitespace-nowrap text-soft" title={shot.count ? sayBytes(shot.count.bytes) : undefined}>
        {#if shot.count}Counted {formatAgo(shot.count.at, now)}, brief v{shot.count.briefVersion}<br />{counted(shot.count.files, 'file')} in the folder, {shot
            .count.opened === 0
            ? 'none changed'
            : `${formatCount(shot.count.opened)} opened`}
        {:else}Not counted yet{/if}
      </span>
      <form
        method="POST"
        action="/shots/{shot.shot.id}/tally?/count"
        use:enhance={() =>
          ({ update }) =>
            update({ invalidateAll: true })}
      >
        <button type="submit" class={['button', !isCounted && 'button-main']}>{shot.count ? 'Count again' : 'Count'}</button>
      </form>
    </div>
  {/if}
</div>
