<!-- The machines that may take part, what they do now, and how fast they are. -->
<script lang="ts">
  import NumberField from '$lib/controls/NumberField.svelte';
  import type { SplitDraft } from './split-draft.svelte';

  let { draft }: { draft: SplitDraft } = $props();
</script>

{#if draft.machines.length > 0}
  <table class="mt-2 w-full text-left text-[13px]" aria-label="Machines">
    <thead
      ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:font-normal"
        ><th>Machine</th><th>Now</th><th class="text-right" title="The middle one of the times that this shot’s frames took there">Time on this shot</th><th
          class="w-[86px] pl-3">Speed</th
        ></tr
      ></thead
    >
    <tbody>
      {#each draft.machines as machine (machine.name)}
        <tr class="border-b border-line [&>td]:py-1">
          <td><label class="flex items-center gap-2"><input type="checkbox" class="accent-(--mint)" bind:checked={machine.chosen} />{machine.name}</label></td>
          <td class={machine.state === 'down' ? 'text-bad' : 'text-soft'}>{machine.state}</td>
          <td class="figure text-right">{machine.medianSeconds === null ? '–' : `${machine.medianSeconds.toFixed(1)} s`}</td>
          <td class="pl-3"><NumberField label="Speed of {machine.name}" labelHidden class="py-0!" min="0.01" step="0.05" bind:value={machine.speed} /></td>
        </tr>
      {/each}
    </tbody>
  </table>
{/if}
{#if draft.hasTypicalTimes}<button type="button" class="button button-small mt-2" onclick={() => draft.takeSpeedsFromTimes()}
    >Speeds from the typical times</button
  >{/if}
