<script lang="ts">
  import Dialog from '$lib/controls/Dialog.svelte';
  import { characterKeys, rememberCharacterKeys } from './character-keys.svelte';
  import { keyList } from './keys';

  let { open = $bindable(false) }: { open?: boolean } = $props();
</script>

<Dialog bind:open title="Keys" leave="Close">
  <dl class="grid grid-cols-[170px_1fr] gap-y-1.5">
    {#each keyList as [keys, does] (keys)}<dt class="figure">{keys}</dt>
      <dd class="text-soft">{does}</dd>{/each}
  </dl>
  <label class="mt-4 flex items-center gap-2 border-t border-line pt-3"
    ><input type="checkbox" class="accent-(--mint)" bind:checked={characterKeys.on} onchange={rememberCharacterKeys} />Keys of one character work</label
  >
</Dialog>
