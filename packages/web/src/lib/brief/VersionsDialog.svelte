<!-- The saved versions of a brief, and what changed between two of them. -->
<script lang="ts">
  import type { Brief, BriefDifference } from '@mint-tally/core';
  import { Dialog } from 'bits-ui';
  import { formatMoment } from '$lib/text/format';

  let {
    open = $bindable(false),
    versions,
    compare,
  }: {
    open?: boolean;
    /** Newest first. */
    versions: readonly { version: number; brief: Brief; who: string; createdAt: Date }[];
    compare: (before: Brief, after: Brief) => BriefDifference[];
  } = $props();

  let chosenBefore: number | null = $state(null);
  let chosenAfter: number | null = $state(null);
  const after = $derived(versions.find((one) => one.version === chosenAfter) ?? versions[0]);
  const before = $derived(versions.find((one) => one.version === chosenBefore) ?? versions[1] ?? versions[0]);
  const differences = $derived(compare(before.brief, after.brief));
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/55" />
    <Dialog.Content
      class="fixed top-1/2 left-1/2 z-50 flex max-h-[80vh] w-[720px] -translate-x-1/2 -translate-y-1/2 flex-col border border-line bg-raised p-5 shadow-xl"
    >
      <Dialog.Title class="text-[17px] font-bold">Versions of the brief</Dialog.Title>
      <Dialog.Description class="mt-1 text-soft">Saving keeps every version. Choose two to see what changed.</Dialog.Description>
      <div class="mt-4 grid grid-cols-2 gap-4">
        <label class="block"
          ><span class="mb-1 block text-soft">Before</span>
          <select class="field" value={before.version} onchange={(event) => (chosenBefore = Number(event.currentTarget.value))}>
            {#each versions as one (one.version)}<option value={one.version}>v{one.version}, {one.who}, {formatMoment(one.createdAt)}</option>{/each}
          </select>
        </label>
        <label class="block"
          ><span class="mb-1 block text-soft">After</span>
          <select class="field" value={after.version} onchange={(event) => (chosenAfter = Number(event.currentTarget.value))}>
            {#each versions as one (one.version)}<option value={one.version}>v{one.version}, {one.who}, {formatMoment(one.createdAt)}</option>{/each}
          </select>
        </label>
      </div>
      <div class="mt-4 min-h-0 overflow-y-auto">
        {#if differences.length === 0}
          <p class="text-soft">{versions.length === 1 ? 'There is one version so far.' : 'These two say the same.'}</p>
        {:else}
          <table class="w-full table-fixed text-left text-[13px]">
            <thead
              ><tr class="border-b border-line text-soft"
                ><th class="w-[190px] py-1 font-normal">Entry</th><th class="py-1 font-normal">v{before.version}</th><th class="py-1 font-normal"
                  >v{after.version}</th
                ></tr
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
        {/if}
      </div>
      <div class="mt-4 flex justify-end"><Dialog.Close class="button">Close</Dialog.Close></div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
