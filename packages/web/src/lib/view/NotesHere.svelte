<!-- Notes on the pass that is looked at, and the way to write one. -->
<script lang="ts">
  import { FrameSet } from '@mint-tally/core';
  import NoteDialog from '$lib/notes/NoteDialog.svelte';
  import NoteList from '$lib/notes/NoteList.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import type { Viewing } from './viewing.svelte';

  let { state: shot, viewing }: { state: ShotState; viewing: Viewing } = $props();

  const view = useShotView();
  const standing = $derived(shot.notes.filter((note) => note.closed === null));
  const frames = $derived(view.selectionSize > 1 ? view.selected : FrameSet.of([view.frame]));
  const region = $derived(viewing.region && ([...viewing.region] as [number, number, number, number]));
</script>

<h2>Notes</h2>
<button type="button" class="button button-small" title="On the frame, or on the selection (J)" onclick={() => (viewing.noting = true)}
  >Note on <span class="figure max-w-[14ch] truncate">{frames.toString()}</span>…</button
>
{#if standing.length > 0}<div class="-mx-4 mt-1.5"><NoteList notes={standing} shotId={shot.shot.id} /></div>{/if}
<NoteDialog bind:open={viewing.noting} shotId={shot.shot.id} pass={view.pass} {frames} {region} />
