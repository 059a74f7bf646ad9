<!-- What was changed, by whom and when; the newest can be taken back. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { counted, formatMoment } from '$lib/text/format';
  import type { LedgerView } from './mend-view';

  let { shotId, ledger, isBlocked }: { shotId: number; ledger: readonly LedgerView[]; isBlocked: boolean } = $props();
</script>

{#if ledger.length === 0}
  <p class="text-[13px] text-soft">Nothing has been changed yet. What is done here stands in this list, and leads back to the bytes that were there.</p>
{:else}
  <table class="w-full max-w-[900px] text-left text-[13px]" aria-label="What was changed">
    <thead>
      <tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
        ><th>When</th><th>What</th><th class="text-right">Files</th><th>Who</th><th>State</th><th><span class="sr-only">Actions</span></th></tr
      >
    </thead>
    <tbody>
      {#each ledger as { id, says, files, at, actor, undoneAt, undoneBy, undo } (id)}
        <tr class="border-b border-line [&>td]:py-1 [&>td]:pr-3">
          <td class="whitespace-nowrap">{formatMoment(at)}</td>
          <td>{says}</td>
          <td class="figure text-right">{files}</td>
          <td>{actor}</td>
          <td>{undoneAt ? `taken back ${formatMoment(undoneAt)}${undoneBy === actor ? '' : ` by ${undoneBy}`}` : 'stands'}</td>
          <td class="flex justify-end gap-2">
            <a class="button button-small" href="/shots/{shotId}/mend/{id}" download aria-label="List of files of {says}, {counted(files, 'file')}">CSV</a>
            {#if undo !== null}
              <form method="POST" action="?/undo" use:enhance>
                <input type="hidden" name="journal" value={undo} />
                <button type="submit" class="button button-small" disabled={isBlocked}>Take it back</button>
              </form>
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
{/if}
