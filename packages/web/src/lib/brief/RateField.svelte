<!-- The frame rate, and whether its timecodes drop labels where there is such a thing. -->
<script lang="ts">
  import TextField from '$lib/controls/TextField.svelte';
  import type { BriefDraft } from './draft';
  import { hasDropFrame } from './duration-fields';
  import type { FieldProblems } from './field-problems.svelte';

  let { draft = $bindable(), problems }: { draft: BriefDraft; problems: FieldProblems } = $props();
</script>

<TextField label="Frame rate" figure bind:value={draft.fps} list="frame-rates" placeholder="not checked" {...problems.entry('fps')}>
  {#snippet hint()}
    {#if hasDropFrame(draft.fps)}
      <label class="flex items-center gap-1.5 text-[13px]" title="Timecodes leave labels out so that they keep up with the clock (SMPTE ST 12-1)"
        ><input type="checkbox" class="accent-(--mint)" bind:checked={draft.dropFrame} />drop</label
      >
    {/if}
  {/snippet}
</TextField>
<datalist id="frame-rates">
  {#each ['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60'] as rate (rate)}<option value={rate}></option>{/each}
</datalist>
