<!-- Notes, each with what it is about and who wrote it; the way to its frames, and to close it or open it again. -->
<script lang="ts">
  import type { SavedNote } from '@mint-tally/store';
  import { askServer } from '$lib/asking/ask-server';
  import { renewPage } from '$lib/jobs/live.svelte';
  import { person } from '$lib/shot/person.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import FrameList from '$lib/text/FrameList.svelte';
  import { formatMoment } from '$lib/text/format';

  let {
    notes,
    shotId,
    viewLink = false,
  }: { notes: readonly SavedNote[]; shotId: number; /** Whether a link leads into the viewer. */ viewLink?: boolean } = $props();

  const view = useShotView();
  let failure = $state('');

  function goTo(note: SavedNote) {
    if (view.model.lanes.some((lane) => lane.name === note.pass)) view.choosePass(note.pass);
    view.goTo(note.frames.first!);
    // One frame needs no selection; it would be all that plays.
    if (note.frames.size > 1) view.selectFrames(note.frames);
  }

  async function setClosed(note: SavedNote, closed: boolean) {
    const answer = await askServer(`/shots/${shotId}/notes`, 'PUT', { id: note.id, closed, person: person.name });
    failure = answer.ok ? '' : answer.refused;
    if (answer.ok) await renewPage();
  }
</script>

<ul>
  {#each notes as note (note.id)}
    <li class="border-b border-line px-4 py-2 text-[13px]" data-note={note.id}>
      <button type="button" class="block w-full text-left hover:bg-hover" onclick={() => goTo(note)}>
        <span class="flex items-baseline justify-between gap-2"
          ><span class="figure min-w-0 text-[14px]"><FrameList text={note.frames.toString()} /></span><span class="truncate text-soft">{note.pass}</span></span
        >
        <span class="block break-words whitespace-pre-wrap">{note.text}</span>
      </button>
      <div class="mt-1 flex flex-wrap items-center gap-2 text-soft">
        <span class="min-w-0 flex-1"
          >{note.person}, {formatMoment(note.createdAt)}{note.closed ? `; closed by ${note.closed.by}, ${formatMoment(note.closed.at)}` : ''}</span
        >
        {#if viewLink}<a class="button button-small" href="/shots/{shotId}/view" onclick={() => goTo(note)}>Look</a>{/if}
        <button type="button" class="button button-small" onclick={() => setClosed(note, note.closed === null)}>{note.closed ? 'Open again' : 'Close'}</button>
      </div>
    </li>
  {/each}
</ul>
{#if failure}<p class="px-4 py-2 text-[13px] text-bad" role="alert">{failure}</p>{/if}
