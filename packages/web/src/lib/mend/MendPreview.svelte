<!-- What would be done to which file and why; what stands against it comes first. -->
<script lang="ts">
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import { counted } from '$lib/text/format';
  import LaneChanges from './LaneChanges.svelte';
  import type { PreviewView } from './mend-view';

  let { preview }: { preview: PreviewView } = $props();

  const actions = $derived({
    rename: preview.wish.kind === 'restore' ? 'bring back' : 'rename',
    'set-aside': 'set aside',
    write: preview.wish.kind === 'convert' ? 'make' : preview.wish.kind === 'patch' ? 'bring' : 'copy',
  } as const);
  /** The address of the same preview with more files given up. */
  function withAside(more: readonly string[]): string {
    const { wish } = preview;
    const given = 'aside' in wish ? wish.aside : [];
    const query = new URLSearchParams({
      do: wish.kind,
      ...(wish.kind === 'renumber' ? { by: String(wish.by) } : wish.kind === 'restore' ? { mend: wish.mend } : {}),
    });
    for (const pass of wish.kind === 'swap' ? wish.passes : []) query.append('pass', pass);
    for (const path of wish.kind === 'restore' ? wish.paths : []) query.append('path', path);
    for (const file of new Set([...given, ...more])) query.append('aside', file);
    return `?${query.toString()}`;
  }

  const text = $derived(preview.steps.map(({ action, from, to }) => `${actions[action]}\t${from}\t${action === 'set-aside' ? '' : to}`).join('\n'));
</script>

{#if preview.conflictCount > 0}
  <section aria-label="What stands against it" class="mb-3 border-l-2 border-bad bg-raised px-3 py-2 text-[13px]">
    <p class="font-bold">{counted(preview.conflictCount, 'conflict')}: nothing is done before somebody has decided.</p>
    <ul class="mt-1 space-y-1">
      {#each preview.conflicts as { files, message }, i (i)}
        <li>
          {message}
          <ul>
            {#each files as file (file)}
              <li class="flex flex-wrap items-baseline gap-x-2">
                <span class="figure [overflow-wrap:anywhere] text-soft">{file}</span>
                {#if files.length > 1 && 'aside' in preview.wish}
                  <a class="underline decoration-control underline-offset-3" href={withAside(files.filter((other) => other !== file))}
                    >keep this one, set {files.length > 2 ? 'the others' : 'the other'} aside</a
                  >
                {/if}
              </li>
            {/each}
          </ul>
        </li>
      {/each}
    </ul>
    {#if preview.conflictCount > preview.conflicts.length}<p class="mt-1 text-soft">… and {preview.conflictCount - preview.conflicts.length} more.</p>{/if}
  </section>
{/if}
{#if preview.refused.length > 0}
  <section aria-label="What is left out" class="mb-3 border-l-2 border-bad bg-raised px-3 py-2 text-[13px]">
    <p class="font-bold">Left out:</p>
    <ul>
      {#each preview.refused as { pass, frames, message }, i (i)}<li>
          <span class="text-soft">{pass}</span> <span class="figure">{frames}</span>
          {message}
        </li>{/each}
    </ul>
  </section>
{/if}
{#if preview.words.length > 0 || preview.notes.length > 0}
  <section aria-label="What is to be known" class="mb-3 border-l-2 border-odd bg-raised px-3 py-2 text-[13px]">
    <p class="font-bold">To be known before:</p>
    <ul>
      {#each preview.words as { pass, frames, message }, i (i)}<li>
          <span class="text-soft">{pass}</span> <span class="figure">{frames}</span>
          {message}
        </li>{/each}
      {#each preview.notes as note, i (i)}<li>{note}</li>{/each}
    </ul>
  </section>
{/if}
{#if preview.lanes && preview.lanes.length > 0}<LaneChanges lanes={preview.lanes} />{/if}
{#if preview.stepCount > 0}
  <table class="w-full table-fixed text-left text-[13px]" aria-label="What would be done">
    <thead>
      <tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
        ><th class="w-[76px]">What</th><th>File</th><th>Becomes</th><th class="w-[22%]">Why</th></tr
      >
    </thead>
    <tbody>
      {#each preview.steps as { action, from, to, reason } (from + to)}
        <tr class="border-b border-line align-top [&>td]:py-1 [&>td]:pr-3">
          <td>{actions[action]}</td>
          <td class="figure [overflow-wrap:anywhere]">{from}</td>
          <td class="figure [overflow-wrap:anywhere]">{action === 'set-aside' ? 'kept, with its path' : to}</td>
          <td class="text-soft">{reason}</td>
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="mt-1 flex items-center gap-2 text-[13px] text-soft">
    {#if preview.stepCount > preview.steps.length}The first {preview.steps.length} of {counted(preview.stepCount, 'file')}.{/if}
    <CopyButton {text} label="Copy the list" small />
  </p>
{:else if preview.conflictCount === 0 && preview.refused.length === 0}
  <p class="text-soft">There is nothing to do: {preview.says} would change no file.</p>
{/if}
