<script lang="ts">
  import '../app.css';
  import { untrack } from 'svelte';
  import { provideLive } from '$lib/jobs/live.svelte';

  let { data, children } = $props();

  const live = provideLive(untrack(() => data.live));
  $effect(() => {
    // From here on entries and keys are heard; whoever drives the page from outside can wait for it.
    document.documentElement.dataset.alive = '';
    return live.listen();
  });
</script>

<div class="relative flex h-dvh flex-col overflow-clip small:h-auto small:min-h-dvh small:overflow-visible">
  {@render children()}
  {#if !live.connected || live.state.engines === 0}
    <p role="alert" class="border-t border-bad bg-bar px-4 py-1.5 text-[13px]">
      {#if !live.connected}The server cannot be heard. What you see may be old; start it again with <code class="figure">./mint start</code>.{:else}No engine is
        running, so nothing can be counted. Start it with <code class="figure">./mint start</code>.{/if}
    </p>
  {/if}
</div>
