<script lang="ts">
  import { enhance } from '$app/forms';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import Problem from '$lib/controls/Problem.svelte';
  import Docket from '$lib/docket/Docket.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import Ledger from '$lib/mend/Ledger.svelte';
  import MendPreview from '$lib/mend/MendPreview.svelte';
  import { counted } from '$lib/text/format';

  let { data, form } = $props();

  const live = useLive();
  const shotId = $derived(data.state.shot.id);
  const mends = $derived(data.mends);
  const job = $derived(live.active(shotId, 'mend'));
  const last = $derived(live.job(shotId, 'mend'));
  const isBlocked = $derived(job !== null || !mends.isWritable);
  const chosen = $derived(page.url.searchParams.get('do') ?? '');
  let by: number | undefined = $state(Number(page.url.searchParams.get('by')) || undefined);

  const sayCount = (one: { steps: number; conflicts: number }) =>
    one.steps + one.conflicts === 0
      ? 'nothing'
      : [one.steps > 0 ? counted(one.steps, 'file') : '', one.conflicts > 0 ? counted(one.conflicts, 'conflict') : ''].filter(Boolean).join(', ');
</script>

<svelte:head><title>{data.state.shot.name}: mend · Mint Tally</title></svelte:head>

{#snippet way(what: string, title: string, hint: string, count: string)}
  <a
    href="?do={what}"
    class={['block border-l-2 px-3 py-1.5 hover:bg-hover', chosen === what ? 'border-mint bg-raised' : 'border-line']}
    aria-current={chosen === what ? 'true' : undefined}
  >
    <b class="block">{title}</b>
    <span class="block text-[13px] text-soft">{hint}</span>
    <span class="block text-[13px]">{count}</span>
  </a>
{/snippet}

<div class="flex min-h-0 flex-1 small:flex-col">
  <main class="flex min-w-0 flex-1 flex-col overflow-y-auto">
    <h2 class="sr-only">Mend</h2>
    <div class="grid grid-cols-[215px_minmax(0,1fr)] gap-x-5 xl:grid-cols-[300px_minmax(0,1fr)] px-4.5 py-3 small:grid-cols-1 small:gap-y-4">
      <section aria-label="What can be mended" class="space-y-1.5">
        {@render way('rename', 'Rename to the brief', 'Padding, separators, case, folder, slips', sayCount(mends.rename))}
        {@render way('trim', 'Set aside what was not ordered', 'Outside the range, leftovers, strays', sayCount(mends.trim))}
        <form
          class={['border-l-2 px-3 py-1.5', chosen === 'renumber' ? 'border-mint bg-raised' : 'border-line']}
          onsubmit={(event) => {
            event.preventDefault();
            if (by !== undefined && Number.isInteger(by)) void goto(`?do=renumber&by=${by}`);
          }}
        >
          <b>Renumber all passes</b>
          <span class="block text-[13px] text-soft">1000 makes 1 to 1001; -8 counts back</span>
          <span class="mt-1 flex items-center gap-2">
            <label class="flex items-center gap-2 text-[13px] text-soft"
              >by <input type="number" class="field figure w-[100px] !py-0.5" step="1" bind:value={by} /></label
            >
            <button type="submit" class="button button-small" disabled={by === undefined || !Number.isInteger(by)}>Preview</button>
          </span>
        </form>
        {#if !mends.isWritable}<p class="text-[13px]">{data.state.shot.root} may only be read: what is previewed here cannot be done.</p>{/if}
      </section>
      <section aria-label="Preview" class="min-w-0">
        {#if job}<div class="mb-3 max-w-[430px]"><JobBar {job} wide /></div>{/if}
        {#if form && 'refused' in form && form.refused}<div class="mb-3"><Problem message={form.refused} /></div>{/if}
        {#if !job && last?.state === 'failed' && last.error}<div class="mb-3"><Problem message={last.error.message} remedy={last.error.remedy} /></div>{/if}
        {#if !job && mends.unfinished}
          <div class="mb-3 flex flex-wrap items-center gap-3 border-l-2 border-bad bg-raised px-3 py-2 text-[14px]" role="alert">
            <span class="flex-1"
              >“{mends.unfinished.says}” was broken off {mends.unfinished.isUndoing ? 'while it was taken back' : ''}:
              <span class="figure">{mends.unfinished.done} of {mends.unfinished.total}</span> moves are made.</span
            >
            {#if !mends.unfinished.isUndoing && mends.preview}<span class="text-[13px] text-soft">Applying goes on with it first.</span>{/if}
            <form method="POST" action="?/undo" use:enhance><button type="submit" class="button button-small" disabled={isBlocked}>Take it back</button></form>
          </div>
        {/if}
        {#if mends.preview}
          {@const preview = mends.preview}
          <div class="mb-2 flex flex-wrap items-center gap-3">
            <h3 class="mr-auto font-bold">Preview: {preview.says}</h3>
            <form method="POST" action="?/apply" use:enhance>
              <input type="hidden" name="wish" value={JSON.stringify(preview.wish)} />
              <input type="hidden" name="seen" value={preview.seen} />
              <button type="submit" class="button button-main" disabled={isBlocked || preview.stepCount === 0 || preview.conflictCount > 0}
                >{preview.wish.kind === 'trim' ? 'Set aside' : preview.wish.kind === 'renumber' ? 'Renumber' : 'Rename'}
                {counted(preview.stepCount, 'file')}</button
              >
            </form>
          </div>
          <MendPreview {preview} />
        {:else}
          <p class="text-soft">
            Choose what is to be mended: it is shown file by file before anything is touched. Every change is verified, written down before it is made, and can
            be taken back.
          </p>
        {/if}
      </section>
    </div>
    <section class="border-t border-line px-4.5 py-3" aria-label="Ledger">
      <h3 class="mb-2 font-bold">Ledger</h3>
      {#if mends.other}
        <div class="mb-2 flex flex-wrap items-center gap-3 text-[13px]">
          <span>The newest change here, “{mends.other.says}”, was made outside of this application.</span>
          <form method="POST" action="?/undo" use:enhance><button type="submit" class="button button-small" disabled={isBlocked}>Take it back</button></form>
        </div>
      {/if}
      <Ledger {shotId} ledger={mends.ledger} {isBlocked} />
    </section>
  </main>
  <Docket state={data.state} />
</div>
