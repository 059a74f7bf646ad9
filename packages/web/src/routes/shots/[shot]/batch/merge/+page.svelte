<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { MergeRule, MergeWay } from '@mint-tally/core';
  import { untrack } from 'svelte';
  import { askServer } from '$lib/asking/ask-server';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import FolderDialog from '$lib/folders/FolderDialog.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import MergePreview from '$lib/merge/MergePreview.svelte';
  import { counted, formatMoment } from '$lib/text/format';

  let { data } = $props();

  const live = useLive();
  const merge = $derived(data.merge);
  const running = $derived(live.active(data.state.shot.id, 'merge'));
  const job = $derived(live.job(data.state.shot.id, 'merge'));

  let sources = $state(untrack(() => (data.merge && data.merge.state !== 'undone' ? data.merge.sources.map((source) => ({ ...source })) : [])));
  let rule: MergeRule = $state(untrack(() => data.merge?.rule ?? 'newer'));
  let way: MergeWay = $state(untrack(() => data.merge?.way ?? 'copy'));
  let byHand: { target: string; source: number; path: string }[] = $state([]);
  let choosing = $state(false);
  let refused = $state('');

  const rules = [
    ['newer', 'the newer one'],
    ['samples', 'the one with more samples'],
    ['owner', 'the machine’s that the frame was given to'],
  ] as const;
  const ways = [
    ['copy', 'copy, and leave the folders as they are'],
    ['move', 'move out of the folders'],
    ['link', 'hard links: no space, one disk'],
  ] as const;
  /** Whether what is previewed is what is asked for now. */
  const fits = $derived(merge !== null && merge.rule === rule && merge.way === way && JSON.stringify(merge.sources) === JSON.stringify(sources));

  async function send(body: object) {
    refused = '';
    const answer = await askServer(`/shots/${data.state.shot.id}/batch/merge/control`, 'POST', body);
    if (!answer.ok) refused = answer.refused;
  }

  const preview = () => send({ action: 'preview', request: { sources, rule, way, byHand } });

  function choose(target: string, source: number, path: string) {
    byHand = [...byHand.filter((one) => one.target !== target), { target, source, path }];
    void preview();
  }
</script>

<svelte:head><title>{data.state.shot.name}: merge · Mint Tally</title></svelte:head>

<main class="grid min-h-0 flex-1 grid-cols-[430px_minmax(0,1fr)] small:grid-cols-1">
  <section class="overflow-y-auto border-r border-line px-4.5 py-3 small:border-r-0 small:border-b" aria-label="Folders">
    <div class="flex items-center gap-3">
      <h2 class="mr-auto font-bold">Merge folders into the shot’s</h2>
      <a class="text-soft underline hover:text-ink" href="/shots/{data.state.shot.id}/batch">Batch</a>
    </div>
    <p class="mt-1 text-[13px] text-soft">
      One folder a machine, or one a copied disk. They become one sequence in <span class="figure [overflow-wrap:anywhere] text-ink"
        >{data.state.shot.root}{data.state.shot.folder ? `/${data.state.shot.folder}` : ''}</span
      >.
    </p>
    {#if !data.writable}<div class="mt-2">
        <Problem message="{data.state.shot.root} may only be read." remedy="Mark the root as writable in mint-tally.config.json to merge into it." />
      </div>{/if}
    <ul class="mt-3 border border-line">
      {#each sources as source, i (source.root + source.folder)}
        <li class="flex items-center gap-2 border-b border-line px-3 py-1.5 text-[13px]">
          <span class="figure min-w-0 flex-1 [overflow-wrap:anywhere]">{source.root}{source.folder ? `/${source.folder}` : ''}</span>
          <button
            type="button"
            class="rounded p-1.5 text-soft hover:bg-hover hover:text-ink"
            aria-label="Leave out {source.root}/{source.folder}"
            onclick={() => (sources = sources.filter((_, at) => at !== i))}><Trash size={15} aria-hidden="true" /></button
          >
        </li>
      {/each}
      <li class="px-3 py-2"><button type="button" class="button button-small" onclick={() => (choosing = true)}>Add a folder…</button></li>
    </ul>
    <div class="mt-3 space-y-2">
      <Select label="Where bytes differ, take" bind:value={rule} options={rules} />
      <Select label="How" bind:value={way} options={ways} />
    </div>
    <p class="mt-3 text-[13px] text-soft">
      Every file is verified by its checksum. Nothing is changed before you have seen the preview, and the merge can be taken back.
    </p>
  </section>

  <section class="flex min-w-0 flex-col overflow-y-auto px-4.5 py-3" aria-label="Preview">
    {#if running}<div class="mb-3 max-w-[430px]"><JobBar job={running} wide /></div>{/if}
    {#if refused}<div class="mb-3"><Problem message={refused} /></div>{/if}
    {#if !running && job?.state === 'failed' && job.error}<div class="mb-3"><Problem message={job.error.message} remedy={job.error.remedy} /></div>{/if}
    {#if !running && job?.state === 'cancelled'}<p class="mb-3 text-soft">It was stopped between two files; it can be gone on with.</p>{/if}
    {#if merge && merge.state !== 'previewing'}
      <h2 class="mb-2 font-bold">
        {#if merge.state === 'done'}Merged: {counted(merge.done, 'file')} brought
        {:else if merge.state === 'undone'}Taken back
        {:else if merge.state === 'previewed'}Preview
        {:else}{merge.state === 'running' ? 'Merging' : 'Taking back'}: {counted(merge.done, 'file')} of {counted(merge.total, 'file')} in place{/if}
      </h2>
      <MergePreview shotId={data.state.shot.id} {merge} onchoose={merge.state === 'previewed' && fits ? choose : null} />
    {:else if !running}
      <p class="text-soft">Add the folders, then preview: nothing is touched by that.</p>
    {/if}
  </section>
</main>
<footer class="flex shrink-0 flex-wrap items-center gap-2 border-t border-line px-4.5 py-2">
  <button type="button" class="button" disabled={sources.length === 0 || running !== null || !data.writable} onclick={preview}>Preview</button>
  {#if merge && (merge.state === 'previewed' || merge.state === 'running')}
    <button
      type="button"
      class="button button-main"
      disabled={running !== null || !fits || merge.total === 0}
      onclick={() => send({ action: 'run', merge: merge.id })}
      >{merge.state === 'running' ? `Go on with ${counted(merge.total - merge.done, 'file')}` : `Merge ${counted(merge.total, 'file')}`}</button
    >
  {/if}
  {#if merge && (merge.state === 'done' || merge.state === 'running' || merge.state === 'undoing') && merge.isKept}
    <button type="button" class="button" disabled={running !== null} onclick={() => send({ action: 'undo', merge: merge.id })}>Take it back</button>
    {#if merge.keptUntil !== null}<span class="text-[13px] text-soft"
        >The files that it replaced are <a class="underline" href="/shots/{data.state.shot.id}/mend?do=kept">kept</a> until {formatMoment(
          merge.keptUntil,
        )}.</span
      >{/if}
  {/if}
  {#if merge?.state === 'previewed' && !fits}<span class="text-[13px] text-soft">The preview is of something else: preview again.</span>{/if}
</footer>

<FolderDialog
  bind:open={choosing}
  title="Which folder is merged?"
  roots={data.roots}
  onchoose={(root, folder) => {
    if (!sources.some((source) => source.root === root && source.folder === folder)) sources = [...sources, { root, folder }];
  }}
/>
