<!-- A lookup table out of a .cube file, after the view. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { LookupTableError, readCube } from '@mint-tally/core';
  import type { ViewSettings } from './view-settings.svelte';

  let { settings }: { settings: ViewSettings } = $props();

  let input: HTMLInputElement | undefined = $state();
  let problem = $state('');

  async function choose() {
    const file = input?.files?.[0];
    if (!file) return;
    try {
      settings.table = readCube(await file.text(), file.name);
      problem = '';
    } catch (thrown) {
      if (!(thrown instanceof LookupTableError)) throw thrown;
      problem = `${thrown.message} ${thrown.remedy}`;
    }
    // The same file can be chosen again, once it has been put right.
    input!.value = '';
  }
</script>

<span class="flex min-w-0 items-center gap-1">
  <button
    type="button"
    class="button button-small min-w-0"
    title="A lookup table (.cube), applied to what the view gives: choose log or linear before it as the table expects"
    onclick={() => input?.click()}><span class="max-w-[14ch] truncate">{settings.table ? settings.table.title : 'Table…'}</span></button
  >
  {#if settings.table}
    <button
      type="button"
      class="rounded p-1 text-soft hover:bg-hover hover:text-ink"
      aria-label="Without the lookup table"
      title="Without the lookup table"
      onclick={() => (settings.table = null)}><X size={14} aria-hidden="true" /></button
    >
  {/if}
  <input bind:this={input} type="file" accept=".cube" class="hidden" aria-label="Lookup table" onchange={choose} />
</span>
{#if problem}<span class="w-full text-bad" role="alert">{problem}</span>{/if}
