<!-- What was different in the folder at the last count. -->
<script lang="ts">
  import { isUnchanged } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { counted, formatCount, formatMoment } from '$lib/text/format';

  let { state: shot }: { state: ShotState } = $props();

  const changes = $derived(shot.count?.changes ?? null);
  const kinds = [
    ['arrived', 'Arrived', 'that were not there at the count before'],
    ['replaced', 'Replaced', 'whose size or time is another'],
    ['vanished', 'Vanished', 'that are not there any more'],
  ] as const;
</script>

<div class="min-h-0 flex-1 overflow-y-auto px-4.5 py-3">
  {#if !shot.count}<p class="text-soft">Nothing has been counted yet.</p>
  {:else if !changes}<p class="text-soft">This was the first count; the next one says what changed since.</p>
  {:else if isUnchanged(changes)}<p class="text-soft">
      Nothing had changed at the count of {formatMoment(shot.count.at)}: no file arrived, was replaced or vanished.
    </p>
  {:else}
    <p class="mb-3 text-soft">At the count of {formatMoment(shot.count.at)}, against the one before it.</p>
    <div class="grid grid-cols-3 gap-6">
      {#each kinds as [kind, title, meaning] (kind)}
        {@const { count, paths } = changes[kind]}
        <section class="min-w-0">
          <h3 class="flex items-baseline gap-2"><b>{title}</b><span class="figure">{formatCount(count)}</span></h3>
          <p class="text-[13px] text-soft">{count === 1 ? 'file' : 'files'} {meaning}</p>
          {#if count > 0}
            <ul class="figure mt-2 space-y-0.5 text-[12.5px]">
              {#each paths.slice(0, 100) as path (path)}<li class="truncate" title={path}>{path}</li>{/each}
            </ul>
            {#if count > 100}<p class="text-[13px] text-soft">and {counted(count - 100, 'more file')}</p>{/if}
            <div class="mt-2"><CopyButton small text={paths.join('\n')} label="Copy files" /></div>
          {/if}
        </section>
      {/each}
    </div>
  {/if}
</div>
