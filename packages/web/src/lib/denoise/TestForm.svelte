<!-- What is tried: a stretch, at some strengths, in all of the picture or a part of it. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { MintError, MOST_STRENGTHS, parseFrameRange, STRENGTHS, strengths, type FrameCount, type FrameSet, type Rectangle } from '@mint-tally/core';
  import TextField from '$lib/controls/TextField.svelte';
  import { counted } from '$lib/text/format';

  let {
    pass,
    frames,
    ordered,
    proposed,
    most,
    region,
    busy,
    hasRange,
  }: {
    pass: string;
    frames: FrameCount;
    /** The ordered frames of the pass. */
    ordered: FrameSet;
    /** The stretch that is tried where nothing else is said, in range notation. */
    proposed: string;
    /** Frames of a test at most. */
    most: number;
    region: Rectangle | null;
    /** A test of the shot goes on. */
    busy: boolean;
    /** A range of the shot goes on. */
    hasRange: boolean;
  } = $props();

  let typed: string | null = $state(null);
  const range = $derived(typed ?? proposed);
  let chosen: string[] = $state(['light', 'middle']);
  let own = $state('');

  const wanted = $derived.by((): { frames: FrameSet | null; problem: string } => {
    try {
      const set = parseFrameRange(range).intersection(ordered);
      if (set.isEmpty) return { frames: null, problem: `None of these frames is ordered of ${pass}.` };
      return set.size > most ? { frames: null, problem: `At most ${most} frames: a second or two tell it.` } : { frames: set, problem: '' };
    } catch (thrown) {
      if (thrown instanceof MintError) return { frames: null, problem: thrown.message };
      throw thrown;
    }
  });
  const ownNumber = $derived(own.trim() === '' ? null : Number(own));
  const ownProblem = $derived(
    ownNumber === null || (ownNumber >= STRENGTHS.least && ownNumber <= STRENGTHS.most) ? '' : `From ${STRENGTHS.least} to ${STRENGTHS.most}; middle is 1.`,
  );
  const tried = $derived(
    [...new Set([...Object.entries(strengths).flatMap(([name, value]) => (chosen.includes(name) ? [value] : [])), ...(ownNumber === null ? [] : [ownNumber])])]
      .sort((a, b) => a - b)
      .slice(0, MOST_STRENGTHS),
  );
  const isReady = $derived(wanted.frames !== null && ownProblem === '' && tried.length > 0 && !busy);
</script>

<form
  method="POST"
  action="?/begin"
  class="flex flex-wrap items-end gap-x-5 gap-y-2"
  use:enhance={() =>
    ({ update }) =>
      update({ reset: false })}
>
  <input type="hidden" name="purpose" value="test" />
  <input type="hidden" name="pass" value={pass} />
  <input type="hidden" name="frames" value={frames} />
  <input type="hidden" name="strengths" value={tried.join(' ')} />
  <input type="hidden" name="region" value={region?.join(' ') ?? ''} />
  <div class="w-[170px]">
    <TextField label="Frames to try" name="range" figure bind:value={() => range, (text) => (typed = text)} problem={wanted.problem} />
  </div>
  <fieldset>
    <legend class="mb-1 text-soft">Strengths</legend>
    <div class="flex flex-wrap items-center gap-x-3 gap-y-1 py-1">
      {#each Object.keys(strengths) as name (name)}
        <label class="flex items-center gap-1.5"><input type="checkbox" class="accent-(--mint)" value={name} bind:group={chosen} />{name}</label>
      {/each}
      <input
        class="field figure w-[84px] !py-0.5"
        placeholder="or 1.4"
        aria-label="Another strength, as a number; middle is 1"
        inputmode="decimal"
        bind:value={own}
        aria-invalid={ownProblem !== ''}
        aria-describedby="own-problem"
      />
    </div>
    <span id="own-problem" class="block text-[13px] text-bad" role="status">{ownProblem}</span>
  </fieldset>
  <div class="pb-0.5">
    <button type="submit" class="button" disabled={!isReady}
      >Try {counted(wanted.frames?.size ?? 0, 'frame')} at {tried.length === 1 ? 'one strength' : `${tried.length} strengths`}</button
    >
    {#if busy}<span class="ml-2 text-[13px] text-soft">after the one that goes on now</span>
    {:else if hasRange}<span class="ml-2 text-[13px] text-soft">the range waits meanwhile</span>{/if}
  </div>
</form>
<p class="mt-1 text-[13px] text-soft">
  A stretch that is selected in the ribbon is taken. {#if region}Only the marked part of the picture is tried.{:else}Drag in the picture to try only a part of
    it.{/if}
</p>
