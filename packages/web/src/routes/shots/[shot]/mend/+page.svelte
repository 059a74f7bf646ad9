<script lang="ts">
  import { enhance } from '$app/forms';
  import { page } from '$app/state';
  import type { MendWish } from '@mint-tally/core';
  import Problem from '$lib/controls/Problem.svelte';
  import Docket from '$lib/docket/Docket.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import KeptSection from '$lib/mend/KeptSection.svelte';
  import Ledger from '$lib/mend/Ledger.svelte';
  import ListSection from '$lib/mend/ListSection.svelte';
  import MendPreview from '$lib/mend/MendPreview.svelte';
  import WayForm from '$lib/mend/WayForm.svelte';
  import WayList from '$lib/mend/WayList.svelte';
  import type { PreviewView } from '$lib/mend/mend-view';
  import { counted } from '$lib/text/format';

  let { data, form } = $props();

  const live = useLive();
  const shotId = $derived(data.state.shot.id);
  const mends = $derived(data.mends);
  const job = $derived(live.active(shotId, 'mend'));
  const last = $derived(live.job(shotId, 'mend'));
  const isBlocked = $derived(job !== null || !mends.isWritable);
  const applies: Record<MendWish['kind'], string> = {
    ...{ rename: 'Rename', trim: 'Set aside', renumber: 'Renumber', swap: 'Swap', patch: 'Bring', hold: 'Hold', convert: 'Make' },
    ...{ conform: 'Conform', restore: 'Bring back' },
  };
  const asked = $derived(page.url.searchParams.get('do') ?? '');
  const chosen = $derived(asked in applies || asked === 'list' || asked === 'kept' ? asked : '');

  /** What a person counts: files that come, where the others only make room for them. */
  const sayCount = ({ wish: { kind }, stepCount, writeCount }: PreviewView) => (kind === 'patch' || kind === 'convert' ? writeCount : stepCount);
</script>

<svelte:head><title>{data.state.shot.name}: mend · Mint Tally</title></svelte:head>

<div class="flex min-h-0 flex-1 small:flex-col">
  <main class="flex min-w-0 flex-1 flex-col overflow-y-auto small:flex-none">
    <h2 class="sr-only">Mend</h2>
    <div
      class="grid flex-1 grid-cols-[225px_minmax(0,1fr)] content-start gap-x-5 px-4.5 py-3 xl:grid-cols-[270px_minmax(0,1fr)] small:grid-cols-1 small:gap-y-4"
    >
      <div>
        <WayList counts={mends} {chosen} />
        {#if !mends.isWritable}<p class="mt-2 text-[13px]">{data.state.shot.root} may only be read: what is previewed here cannot be done.</p>{/if}
      </div>
      <section aria-label="Preview" class="min-w-0">
        {#if job}<div class="mb-3 max-w-[430px]"><JobBar {job} wide /></div>{/if}
        {#if form && 'refused' in form && form.refused}<div class="mb-3"><Problem message={form.refused} /></div>{/if}
        {#if mends.problem}<div class="mb-3"><Problem message={mends.problem} /></div>{/if}
        {#if !job && last?.state === 'failed' && last.error}<div class="mb-3"><Problem message={last.error.message} remedy={last.error.remedy} /></div>{/if}
        {#if !job && mends.unfinished}
          <div class="mb-3 flex flex-wrap items-center gap-3 border-l-2 border-bad bg-raised px-3 py-2 text-[14px]" role="alert">
            <span class="flex-1"
              >“{mends.unfinished.says}” was broken off {mends.unfinished.isUndoing ? 'while it was taken back' : ''}:
              <span class="figure">{mends.unfinished.done} of {mends.unfinished.total}</span> moves are made.</span
            >
            {#if !mends.unfinished.isUndoing && mends.preview}<span class="text-[13px] text-soft">Applying goes on with it first.</span>{/if}
            {@render undo(mends.unfinished.journal)}
          </div>
        {/if}
        {#if chosen === 'list'}
          <ListSection {shotId} list={mends.list} passes={data.passes} />
        {:else if chosen === 'kept'}
          <KeptSection kept={mends.kept} {isBlocked} />
        {:else}
          {#key `${chosen} ${page.url.search}`}<WayForm
              kind={chosen}
              state={data.state}
              roots={data.roots}
              last={mends.preview?.wish ?? null}
              isBusy={job !== null}
            />{/key}
          {#if mends.preview}
            {@const preview = mends.preview}
            <div class="mb-2 flex flex-wrap items-center gap-3">
              <h3 class="mr-auto font-bold">Preview: {preview.says}</h3>
              {#if preview.stepCount > 0}<form method="POST" action="?/apply&do={chosen}" use:enhance>
                  <input type="hidden" name="wish" value={JSON.stringify(preview.wish)} />
                  <input type="hidden" name="seen" value={preview.seen} />
                  <button type="submit" class="button button-main" disabled={isBlocked || preview.conflictCount > 0}
                    >{applies[preview.wish.kind]} {counted(sayCount(preview), 'file')}</button
                  >
                </form>{/if}
            </div>
            <MendPreview {preview} />
            {#if preview.wish.kind === 'conform' && preview.stepCount > 0}<p class="mt-2 text-[13px]">
                The brief orders {data.state.brief.range} at {data.state.brief.fps ?? '24'}: set its rate and range to the new ones afterwards, or the count
                finds what the map took out. A sound lasts as long as before.
              </p>{/if}
            {#if preview.wish.kind === 'trim' && preview.wish.frames !== ''}<p class="mt-2 text-[13px]">
                Ordered frames that go are missing afterwards: shorten the brief’s range where they are not wanted.
              </p>{/if}
          {:else if chosen === ''}
            <p class="text-soft">
              Choose what is to be mended: it is shown file by file before anything is touched. Every change is verified, written down before it is made, and
              can be taken back.
            </p>
          {:else if !job && (chosen === 'patch' || chosen === 'convert')}
            <p class="text-soft">
              {chosen === 'patch'
                ? 'Every file of the other folder is looked into: only what is sound, of the right kind, and of the right camera and version comes in. The frames at the borders are compared with those that stay.'
                : 'Some frames are made for the preview, so that it can be said what is lost.'}
            </p>
          {/if}
        {/if}
      </section>
    </div>
    <section class="border-t border-line px-4.5 py-3" aria-label="Ledger">
      <h3 class="mb-2 font-bold">Ledger</h3>
      {#if mends.other}
        <div class="mb-2 flex flex-wrap items-center gap-3 text-[13px]">
          <span>The newest change here, “{mends.other.says}”, was made outside of this application.</span>
          {@render undo(mends.other.journal)}
        </div>
      {/if}
      <Ledger {shotId} ledger={mends.ledger} {isBlocked} />
    </section>
  </main>
  <Docket state={data.state} />
</div>

{#snippet undo(journal: string)}
  <form method="POST" action="?/undo" use:enhance>
    <input type="hidden" name="journal" value={journal} /><button type="submit" class="button button-small" disabled={isBlocked}>Take it back</button>
  </form>
{/snippet}
