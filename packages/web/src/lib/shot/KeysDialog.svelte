<script lang="ts">
  import Dialog from '$lib/controls/Dialog.svelte';
  import { keyList } from './keys';

  let { open = $bindable(false) }: { open?: boolean } = $props();
</script>

<Dialog bind:open title="Keys" leave="Close">
  <dl class="grid grid-cols-[170px_1fr] gap-y-1.5">
    {#each keyList as [keys, does] (keys)}<dt class="figure">{keys}</dt>
      <dd class="text-soft">{does}</dd>{/each}
  </dl>
</Dialog>
