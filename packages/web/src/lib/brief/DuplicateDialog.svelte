<!-- Gives other shots this one's brief. -->
<script lang="ts">
  import { Dialog } from 'bits-ui';
  import Problem from '$lib/controls/Problem.svelte';
  import { countOf } from '$lib/text/format';

  let { open = $bindable(false), shotId, others }: { open?: boolean; shotId: number; others: readonly { id: number; name: string; note: string }[] } = $props();

  let chosen: number[] = $state([]);
  let keepFrames = $state(true);
  let done = $state('');
  let failure = $state('');

  async function give(event: SubmitEvent) {
    event.preventDefault();
    failure = '';
    const response = await fetch(`/shots/${shotId}/duplicate`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ to: chosen, keepFrames }),
    });
    if (response.ok) {
      done = `Given to ${countOf(chosen.length, 'shot')}; they are being counted against it.`;
      chosen = [];
    } else failure = ((await response.json()) as { message: string }).message;
  }
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/55" />
    <Dialog.Content
      class="fixed top-1/2 left-1/2 z-50 flex max-h-[80vh] w-[460px] -translate-x-1/2 -translate-y-1/2 flex-col border border-line bg-raised p-5 shadow-xl"
    >
      <Dialog.Title class="text-[17px] font-bold">Give this brief to other shots</Dialog.Title>
      <Dialog.Description class="mt-1 text-soft"
        >The saved brief becomes a new version of theirs, under their own names. Nothing on disk changes.</Dialog.Description
      >
      <form class="mt-4 flex min-h-0 flex-col gap-3" onsubmit={give}>
        {#if others.length === 0}<p class="text-soft">There is no other shot in the project.</p>{/if}
        <ul class="min-h-0 space-y-1.5 overflow-y-auto">
          {#each others as { id, name, note } (id)}
            <li>
              <label class="flex items-center gap-2.5"
                ><input type="checkbox" class="accent-(--mint)" bind:group={chosen} value={id} /><b>{name}</b>
                <span class="truncate text-soft">{note}</span></label
              >
            </li>
          {/each}
        </ul>
        <label class="flex items-center gap-2.5 border-t border-line pt-3"
          ><input type="checkbox" class="accent-(--mint)" bind:checked={keepFrames} />They keep their own frames and sound</label
        >
        {#if failure}<Problem message={failure} />{/if}
        {#if done}<p role="status" class="text-[13px] text-soft">{done}</p>{/if}
        <div class="flex justify-end gap-2">
          <Dialog.Close class="button">Close</Dialog.Close><button class="button button-main" disabled={chosen.length === 0}
            >Give to {countOf(chosen.length, 'shot')}</button
          >
        </div>
      </form>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
