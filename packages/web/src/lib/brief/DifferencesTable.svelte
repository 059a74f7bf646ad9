<!-- What two briefs say differently, entry by entry. -->
<script lang="ts">
  import type { BriefDifference } from '@mint-tally/core';

  let { differences, before, after }: { differences: readonly BriefDifference[]; before: string; after: string } = $props();
</script>

<table class="w-full table-fixed text-left text-[13px]">
  <thead
    ><tr class="border-b border-line text-soft"
      ><th class="w-[190px] py-1 font-normal">Entry</th><th class="py-1 font-normal">{before}</th><th class="py-1 font-normal">{after}</th></tr
    ></thead
  >
  <tbody>
    {#each differences as { entry, before: was, after: is } (entry)}
      <tr class="border-b border-line align-top [&>td]:py-1.5 [&>td]:pr-3 [&>td]:[overflow-wrap:anywhere]">
        <th scope="row" class="py-1.5 pr-3 font-bold">{entry}</th>
        <td class="figure">{was ?? '–'}</td>
        <td class="figure">{is ?? '–'}</td>
      </tr>
    {/each}
  </tbody>
</table>
