<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { keyList } from './keys';

  let { open = $bindable(false) }: { open?: boolean } = $props();
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/55" />
    <Dialog.Content class="fixed top-1/2 left-1/2 z-50 w-[460px] -translate-x-1/2 -translate-y-1/2 border border-line bg-raised p-5 shadow-xl">
      <Dialog.Title class="text-[17px] font-bold">Keys</Dialog.Title>
      <dl class="mt-3 grid grid-cols-[170px_1fr] gap-y-1.5">
        {#each keyList as [keys, does] (keys)}<dt class="figure">{keys}</dt>
          <dd class="text-soft">{does}</dd>{/each}
      </dl>
      <div class="mt-4 flex justify-end"><Dialog.Close class="button">Close</Dialog.Close></div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
