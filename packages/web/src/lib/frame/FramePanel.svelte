<!-- The frame under the playhead: its picture, and what is known of its file. -->
<script lang="ts">
  import { findingCodes, type Finding, stateOfFinding } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import { stateOfRank } from '$lib/ribbon/ribbon-model';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { stateTitles } from '$lib/states/states';
  import { sayBytes, formatMoment } from '$lib/text/format';
  import { frameInfoSchema, type FrameInfo } from './frame-info';

  let { state: shot }: { state: ShotState } = $props();

  const view = useShotView();
  /** Changes with a new count alone, not with everything that is read anew. */
  const countedAt = $derived(shot.count?.at);
  const shotId = $derived(shot.shot.id);
  let info = $state<FrameInfo | null>(null);
  let failure = $state('');
  /** Which of several files for the frame is looked at; the first of another frame. */
  let chosen = $state(0);
  let shownQuery = '';

  const lane = $derived(view.model.lanes.find((candidate) => candidate.name === view.pass) ?? null);
  const stateHere = $derived(lane ? stateOfRank(lane.ranks[view.column]) : null);
  const file = $derived(info?.files[Math.min(chosen, info.files.length - 1)] ?? null);
  const here = $derived(shot.findings.filter((finding) => concerns(finding)));

  function concerns(finding: Finding): boolean {
    return finding.pass === view.pass && finding.frames.has(view.frame);
  }

  $effect(() => {
    const query = new URLSearchParams({ pass: view.pass, frame: String(view.frame) });
    // The address is the same after a new count, the answer may not be.
    void countedAt;
    const id = shotId;
    const stop = new AbortController();
    // While the playhead runs, only where it rests is asked for.
    const timer = setTimeout(async () => {
      try {
        const response = await fetch(`/shots/${id}/frame?${query.toString()}`, { signal: stop.signal });
        if (!response.ok) throw new Error('It cannot be said what is there: the server refused.');
        info = frameInfoSchema.parse(await response.json());
        if (query.toString() !== shownQuery) chosen = 0;
        shownQuery = query.toString();
        failure = '';
      } catch (thrown) {
        if (stop.signal.aborted) return;
        info = null;
        failure = thrown instanceof Error ? thrown.message : String(thrown);
      }
    }, 40);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  });
</script>

<section class="flex min-h-0 min-w-0 flex-1 small:flex-col" aria-label="Frame under the playhead">
  <div class="relative flex min-w-0 flex-1 items-center justify-center bg-ground p-3 small:min-h-[180px] small:flex-none">
    {#if file?.still}
      {#key file.still}
        <img src={file.still} alt="{shot.shot.name} {view.pass} frame {view.frame}" class="h-full w-full object-contain small:max-h-[60dvh]" />
      {/key}
    {:else}
      <div class="max-w-[420px] text-center">
        <div class="mb-2 flex justify-center"><StateMark state={stateHere ?? 'later'} size={28} /></div>
        {#if failure}<p>{failure}</p>
        {:else if stateHere === null}<p><b>{view.pass}</b> does not order frame <span class="figure">{view.frame}</span>.</p>
        {:else if file}<p class="break-words">{file.problem ?? file.notExamined ?? 'There is no picture of this file.'}</p>
        {:else if shot.count === null}<p class="text-soft">Not counted yet.</p>
        {:else if info}<p>No file fills this frame. Ordered is</p>
          <p class="figure mt-1 text-[13px] break-all text-soft">{info.ordered}</p>{/if}
      </div>
    {/if}
  </div>
  <div class="w-[272px] shrink-0 overflow-y-auto border-l border-line px-4 py-3 text-[13px] small:w-full small:border-t small:border-l-0">
    <h2 class="flex items-center gap-2 text-[14px]">
      <StateMark state={stateHere ?? 'later'} /><b>{view.pass}</b> <span class="figure">{view.frame}</span>
      <span class="text-soft">{stateHere ? stateTitles[stateHere] : 'not ordered'}</span>
    </h2>
    {#each here as finding (finding.code + finding.detail)}
      <p class="mt-2 flex gap-2">
        <span class="mt-0.5"><StateMark state={stateOfFinding(finding, finding.waiver !== null)} size={12} /></span><span
          class="min-w-0 [overflow-wrap:anywhere]"
          ><b>{findingCodes[finding.code].title}.</b>
          <span class="text-soft">{file?.problem && findingCodes[finding.code].family === 'soundness' ? file.problem : finding.message}</span></span
        >
      </p>
    {/each}
    {#if info && info.files.length > 1}
      <div class="mt-3 flex gap-1" role="group" aria-label="Files that claim this frame">
        {#each info.files as entry, index (entry.path)}
          <button
            type="button"
            class={['button button-small', index === chosen && 'border-mint']}
            aria-pressed={index === chosen}
            onclick={() => (chosen = index)}>File {index + 1}</button
          >
        {/each}
      </div>
    {/if}
    {#if file}
      <p class="figure mt-3 text-[12.5px] break-all">{file.path}</p>
      <dl class="mt-2 grid grid-cols-[92px_1fr] gap-y-1">
        {#each file.facts as [name, value] (name)}<dt class="text-soft">{name}</dt>
          <dd class="figure break-words">{value}</dd>{/each}
        <dt class="text-soft">File</dt>
        <dd class="figure">{sayBytes(file.size)}</dd>
        <dt class="text-soft">Written</dt>
        <dd class="figure">{formatMoment(file.modified)}</dd>
      </dl>
      <div class="mt-3"><CopyButton small text={file.path} label="Copy path" /></div>
    {/if}
  </div>
</section>
