<!-- How much of the shot the ribbon shows, and where in the whole that lies; stays in sight when the lanes scroll. -->
<script lang="ts">
  import Maximize2 from '@lucide/svelte/icons/maximize-2';
  import ZoomIn from '@lucide/svelte/icons/zoom-in';
  import ZoomOut from '@lucide/svelte/icons/zoom-out';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import Overview from './Overview.svelte';

  const view = useShotView();
</script>

<div class="sticky bottom-0 flex items-center bg-ground pt-1 pb-1.5">
  <div class="flex w-[108px] shrink-0 items-center gap-0.5 pl-3.5" role="group" aria-label="Zoom">
    <button type="button" class="zoom" title="Fewer frames (+)" aria-label="Show fewer frames" onclick={() => view.zoom(0.6, view.column + 0.5)}
      ><ZoomIn size={14} aria-hidden="true" /></button
    >
    <button
      type="button"
      class="zoom"
      title="More frames (-)"
      aria-label="Show more frames"
      disabled={!view.window}
      onclick={() => view.zoom(1 / 0.6, view.column + 0.5)}><ZoomOut size={14} aria-hidden="true" /></button
    >
    <button type="button" class="zoom" title="All frames (0)" aria-label="Show all frames" disabled={!view.window} onclick={() => (view.window = null)}
      ><Maximize2 size={13} aria-hidden="true" /></button
    >
  </div>
  <Overview />
</div>

<style>
  .zoom {
    border-radius: 4px;
    padding: 2px 4px;
    color: var(--soft);
    &:hover:not(:disabled) {
      background: var(--hover);
      color: var(--ink);
    }
    &:disabled {
      opacity: 0.45;
    }
  }
</style>
