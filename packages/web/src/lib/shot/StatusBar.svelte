<!-- The bottom line of a shot: where the playhead stands, what is selected, what the shapes mean. -->
<script lang="ts">
  import Keyboard from '@lucide/svelte/icons/keyboard';
  import X from '@lucide/svelte/icons/x';
  import { denoisedPasses, formatTimecode, parseFrameRate, type Brief } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import RenderThese from '$lib/mend/RenderThese.svelte';
  import Legend from '$lib/states/Legend.svelte';
  import { counted } from '$lib/text/format';
  import { useShotView } from './shot-view.svelte';

  let {
    shotId,
    brief,
    isViewing,
    onkeys,
  }: { shotId: number; brief: Brief; /** Whether frames are looked at by themselves. */ isViewing: boolean; onkeys: () => void } = $props();

  const view = useShotView();
  // Time runs from the first ordered frame; the frame that the range starts with is 00:00:00:00.
  const canRender = $derived(!denoisedPasses(brief).has(view.pass));
  const time = $derived(brief.fps === undefined ? '' : formatTimecode(view.frame - (view.model.frames[0] ?? 0), parseFrameRate(brief.fps)));
</script>

<div class="status-bar flex min-h-[36px] shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-t border-line bg-bar px-4.5 py-0.5 text-[13px] text-soft">
  <span>Frame <b class="figure text-ink">{view.frame}</b></span>
  {#if time}<span>Time <b class="figure text-ink">{time}</b></span>{/if}
  {#if view.selectionSize === 0 && isViewing && canRender}
    <RenderThese {shotId} entries={[{ pass: view.pass, frames: String(view.frame) }]} reason="Seen in View" origin="viewer" label="Render this frame" />
  {/if}
  {#if view.selectionSize > 0}
    <span class="flex min-w-0 flex-1 items-center gap-2">
      <span class="min-w-0 truncate">Selection <b class="figure text-ink">{view.selectionRange}</b> ({counted(view.selectionSize, 'frame')})</span>
      <CopyButton small text={view.selectionRange} label="Copy range" />
      {#if canRender}<RenderThese {shotId} entries={[{ pass: view.pass, frames: view.selectionRange }]} reason="Selected by hand" origin="selection" />{/if}
      <button
        type="button"
        class="rounded p-1 hover:bg-hover hover:text-ink"
        onclick={() => view.clearSelection()}
        aria-label="Clear the selection"
        title="Clear the selection"><X size={14} aria-hidden="true" /></button
      >
    </span>
  {/if}
  <span class="ml-auto"><Legend /></span>
  <button type="button" class="rounded p-1 hover:bg-hover hover:text-ink" onclick={onkeys} aria-label="Keys" title="Keys (?)"
    ><Keyboard size={16} aria-hidden="true" /></button
  >
</div>
