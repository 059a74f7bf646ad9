<!-- The package that a shot was opened from: whether it is as it was packed, and the receipt that goes back. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import type { Receipt } from '@mint-tally/core';
  import TextField from '$lib/controls/TextField.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';
  import { counted, formatMoment, sayBytes } from '$lib/text/format';

  let { shotId, place, receipt, problem }: { shotId: number; place: string; receipt: Receipt | null; problem: string } = $props();

  const live = useLive();
  const job = $derived(live.active(shotId, 'verify'));
  const last = $derived(live.job(shotId, 'verify'));
  /** Of what lies here nothing is wrong, and more belongs beside it. */
  const lacksVolumes = $derived(receipt !== null && receipt.problems.length > 0 && receipt.problems.every(({ code }) => code === 'missing-volume'));
  const SHOWN = 12;
</script>

<section aria-label="The package that arrived" class="mb-5 border-b border-line pb-4">
  <h2 class="text-[22px] font-bold">
    {#if job}Being verified{:else if receipt === null}Not verified{:else if receipt.valid && receipt.ready}Arrived whole{:else if receipt.valid}Arrived whole,
      with open findings{:else if lacksVolumes}Volumes are still to come{:else}Not as it was packed{/if}
  </h2>
  <p class="figure text-[13px] [overflow-wrap:anywhere] text-soft">{place}</p>
  {#if job}<div class="mt-2"><JobBar {job} wide waits={live.waits(shotId, 'verify')} /></div>
  {:else}
    {#if last?.state === 'failed' && last.error}<div class="mt-2"><Problem message={last.error.message} remedy={last.error.remedy} /></div>
    {:else if last?.state === 'cancelled'}<p class="mt-2 text-[13px] text-soft">It was stopped; nothing is known of what was not read.</p>{/if}
    {#if receipt}
      <p class="mt-1">
        {counted(receipt.files, 'file')}, {sayBytes(receipt.bytes)}, verified {formatMoment(receipt.at)} by {receipt.person || 'somebody'}.
        {receipt.ready ? '' : 'Something that was not waived stands against the frames: the docket of Tally says what.'}
        {#if receipt.valid}Every file is as it was packed, and nothing else is there.{:else if lacksVolumes}Every file of this one is as it was packed; not
          beside it are:{:else}<b class="text-bad">{counted(receipt.problems.length, 'problem')}:</b>{/if}
      </p>
      {#if receipt.problems.length > 0}
        <ul class="mt-1 text-[14px]" aria-label="Problems of the package">
          {#each receipt.problems.slice(0, SHOWN) as { message }, i (i)}<li class="[overflow-wrap:anywhere]">
              {message}
            </li>{/each}
        </ul>
        {#if receipt.problems.length > SHOWN}<p class="text-[13px] text-soft">And {receipt.problems.length - SHOWN} more, in the receipt.</p>{/if}
      {/if}
      <p class="mt-2">
        <a class="button button-small" href="/shots/{shotId}/export/receipt.json" download>Save the receipt</a>
        <span class="text-[13px] text-soft">It goes back to whoever sent the package.</span>
      </p>
    {/if}
    <form method="POST" action="?/verify" class="mt-2 flex flex-wrap items-end gap-2" aria-label="Verify" use:enhance={() => (rememberPerson(), undefined)}>
      <TextField label="Your name" name="person" bind:value={person.name} autocomplete="name" {problem} />
      <button type="submit" class="button button-small">{receipt ? 'Verify again' : 'Verify'}</button>
    </form>
  {/if}
</section>
