<!-- The ribbon as it is and as it will be, of the passes that a mend changes. -->
<script lang="ts">
  import RowRibbon from '$lib/ribbon/RowRibbon.svelte';
  import type { LaneChange } from './mend-view';

  let { lanes }: { lanes: readonly LaneChange[] } = $props();
  const SHOWN = 12;
</script>

<section aria-label="The ribbon as it will be" class="mb-3">
  <h4 class="text-[13px] text-soft">The ribbon now, and as it will be</h4>
  <ul>
    {#each lanes.slice(0, SHOWN) as { pass, now, then, says } (pass)}
      <li class="mt-1.5 grid grid-cols-[110px_minmax(0,1fr)] items-center gap-x-3 text-[13px]">
        <span class="row-span-2 self-start truncate" title={pass}>{pass}</span>
        <div class="space-y-px"><RowRibbon states={now} /><RowRibbon states={then} /></div>
        <span class="text-soft">{says}</span>
      </li>
    {/each}
  </ul>
  {#if lanes.length > SHOWN}<p class="mt-1 text-[13px] text-soft">and {lanes.length - SHOWN} more passes</p>{/if}
</section>
