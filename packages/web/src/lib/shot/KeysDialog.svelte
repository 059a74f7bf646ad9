<script lang="ts">
  import Dialog from '$lib/controls/Dialog.svelte';
  import { characterKeys, rememberCharacterKeys } from './character-keys.svelte';
  import { keyList } from './keys';
  import { useShotView } from './shot-view.svelte';

  const view = useShotView();
  let { open = $bindable(false) }: { open?: boolean } = $props();
</script>

<Dialog bind:open title="Keys" leave="Close">
  {#if view.screenKeys}
    <h3 class="mb-1 font-bold">On this screen</h3>
    <dl class="mb-4 grid grid-cols-[170px_1fr] gap-y-1.5">
      {#each view.screenKeys.list as [keys, does] (keys)}<dt class="figure">{keys}</dt>
        <dd class="text-soft">{does}</dd>{/each}
    </dl>
    <h3 class="mb-1 font-bold">On every screen of a shot</h3>
  {/if}
  <dl class="grid grid-cols-[170px_1fr] gap-y-1.5">
    {#each keyList as [keys, does] (keys)}<dt class="figure">{keys}</dt>
      <dd class="text-soft">{does}</dd>{/each}
  </dl>
  <label class="mt-4 flex items-center gap-2 border-t border-line pt-3"
    ><input type="checkbox" class="accent-(--mint)" bind:checked={characterKeys.on} onchange={rememberCharacterKeys} />Keys of one character work</label
  >
</Dialog>
