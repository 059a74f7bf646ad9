<script lang="ts">
  import { enhance } from '$app/forms';
  import Coin from '$lib/coin/Coin.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import Segments from '$lib/controls/Segments.svelte';
  import Arrived from '$lib/handoff/Arrived.svelte';
  import GateTable from '$lib/handoff/GateTable.svelte';
  import MovieForm from '$lib/handoff/MovieForm.svelte';
  import PackageForm from '$lib/handoff/PackageForm.svelte';
  import StampDialog from '$lib/handoff/StampDialog.svelte';
  import SheetForm from '$lib/handoff/SheetForm.svelte';
  import MadeFiles from '$lib/handoff/MadeFiles.svelte';
  import Packages from '$lib/handoff/Packages.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import { counted, formatMoment } from '$lib/text/format';

  let { data, form } = $props();

  const live = useLive();
  const shot = $derived(data.state);
  const shotId = $derived(shot.shot.id);
  const openGates = $derived(shot.gates.filter((gate) => gate.state === 'open' || gate.state === 'unmeasured'));
  let making: 'package' | 'movie' | 'sheet' = $state('package');
  const job = $derived(live.active(shotId, making));
  const last = $derived(live.job(shotId, making));
  const said = $derived((form ?? {}) as Record<string, unknown>);
  const fieldsOf = (name: string) => (said[name] ?? {}) as Record<string, string>;
  let stamping: 'signed' | 'sent-back' | null = $state(null);
  const version = $derived([shot.shot.name, shot.brief.version].filter(Boolean).join(' '));
  const { stamp } = $derived(data);
  const isSigned = $derived(stamp?.kind === 'signed' && stamp.broken === '');
</script>

<svelte:head><title>{shot.shot.name}: handoff · Mint Tally</title></svelte:head>

<div class="flex min-h-0 flex-1 small:flex-col">
  <main class="min-w-0 flex-1 overflow-y-auto px-4.5 py-4 small:flex-none">
    {#if data.arrived}<Arrived {shotId} place={data.arrived.place} receipt={data.arrived.receipt} problem={fieldsOf('verify').person ?? ''} />{/if}
    <div class="flex items-center gap-5">
      <Coin gates={shot.gates} stamped={shot.handedOver} size={104} />
      <div class="min-w-0 flex-1">
        <h2 class="text-[22px] font-bold">
          {#if shot.handedOver}Handed over{:else if shot.ready}Ready to hand over{:else}{counted(openGates.length, 'gate')} still open{/if}
        </h2>
        <div class="mt-1 text-[14px]" data-testid="stamp">
          {#if stamp === null}<span class="text-soft">Nobody has signed {version} off yet.</span>
          {:else if stamp.broken !== ''}
            <span class="font-bold text-bad">The {stamp.kind === 'signed' ? 'stamp' : 'word'} of {stamp.person} is broken:</span>
            since {formatMoment(stamp.at)}: {stamp.broken}.
          {:else if stamp.kind === 'signed'}<b>Signed off by {stamp.person}</b>, {formatMoment(stamp.at)}{stamp.note === '' ? '' : `: ${stamp.note}`}
          {:else}<b class="text-bad">Sent back by {stamp.person}</b>, {formatMoment(stamp.at)}: {stamp.note}{/if}
        </div>
        <div class="mt-2 flex flex-wrap gap-2">
          {#if !isSigned}<button type="button" class="button button-small" disabled={!shot.ready} onclick={() => (stamping = 'signed')}
              >Sign off the version…</button
            >{/if}
          <button type="button" class="button button-small" disabled={shot.count === null || shot.count.stale} onclick={() => (stamping = 'sent-back')}
            >Send back…</button
          >
          {#if stamp}<form method="POST" action="?/unstamp" use:enhance>
              <input type="hidden" name="stamp" value={stamp.id} /><button type="submit" class="button button-small">Take the word back</button>
            </form>{/if}
          <a class="button button-small" href="/shots/{shotId}/handoff/report">Report</a>
        </div>
      </div>
    </div>
    <GateTable state={shot} />
    <Packages
      {shotId}
      packages={data.packages}
      strays={data.strays}
      problem={typeof said.receipt === 'string' ? said.receipt : ''}
      attached={typeof said.attached === 'string' ? said.attached : ''}
    />
    <MadeFiles {shotId} movies={data.movies} sheets={data.sheets} />
  </main>

  <aside
    class="w-[420px] shrink-0 overflow-y-auto border-l border-line bg-raised px-5 py-4 max-[1100px]:w-[340px] small:w-full small:border-t small:border-l-0"
    aria-label="What is made"
  >
    <Segments
      label="What is made"
      value={making}
      options={[
        ['package', 'Package'],
        ['movie', 'Review movie'],
        ['sheet', 'Contact sheet'],
      ]}
      onchoose={(value) => (making = value)}
    />
    {#if job}
      <div class="mt-4"><JobBar {job} wide waits={live.waits(shotId, making)} /></div>
    {:else if making === 'package'}
      <p class="mt-2 text-[13px] text-soft">
        Frames, brief, count, figures and note by BagIt (RFC 8493), with checksums that the other side can verify. The frames are counted once more first.
      </p>
      <PackageForm
        state={shot}
        roots={data.roots}
        proposedRoot={data.proposedRoot}
        proposedFolder={data.proposedFolder}
        note={data.note}
        packages={data.packages}
        fields={fieldsOf('fields')}
      />
    {:else if making === 'sheet'}
      <SheetForm state={shot} roots={data.roots} proposedRoot={data.proposedRoot} proposedSheet={data.proposedSheet} fields={fieldsOf('sheet')} />
    {:else}
      <MovieForm
        state={shot}
        roots={data.roots}
        allRoots={data.allRoots}
        proposedRoot={data.proposedRoot}
        proposedMovie={data.proposedMovie}
        fields={fieldsOf('movie')}
      />
    {/if}
    {#if !job && last?.state === 'failed' && last.error}<div class="mt-3"><Problem message={last.error.message} remedy={last.error.remedy} /></div>
    {:else if !job && last?.state === 'cancelled'}<p class="mt-3 text-[13px] text-soft">
        The last {making === 'sheet' ? 'contact sheet' : making} was stopped; nothing of it was left behind.
      </p>{/if}
    {#if making === 'package'}
      <p class="mt-6 border-t border-line pt-3 text-[13px] text-soft">
        A package that has arrived from elsewhere is opened as a <a class="underline" href="/shots/new">new shot</a>: it is verified, counted, and has a receipt
        that goes back. <span class="figure">./mint verify</span> does the same without the application.
      </p>
    {/if}
  </aside>
</div>

<StampDialog bind:kind={stamping} content={shot.count?.content ?? ''} {version} />
