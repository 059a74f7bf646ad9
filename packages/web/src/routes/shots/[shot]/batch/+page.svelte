<script lang="ts">
  import { invalidateAll } from '$app/navigation';
  import { untrack } from 'svelte';
  import { askServer } from '$lib/asking/ask-server';
  import { batchViewSchema, type BatchView, type ControlRequest } from '$lib/batch/batch-view';
  import BatchRun from '$lib/batch/BatchRun.svelte';
  import { tellPerson, mayTell, askToTell } from '$lib/batch/notices';
  import SplitForm from '$lib/batch/SplitForm.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import { counted, formatAgo } from '$lib/text/format';

  let { data } = $props();

  const LOOK_EVERY = 1000;

  let machine: string | null = $state(null);
  let heard: BatchView | null = $state(untrack(() => data.batch));
  let refused = $state('');
  /** After a batch has ended, whether its results are looked at or the next one is made up. */
  let looking = $state(false);
  let asked = $state(mayTell());

  const batch = $derived(heard);
  const active = $derived(batch !== null && batch.outcome === null);
  const title = $derived(batch && active ? `(${batch.done}/${batch.total}) ` : '');

  async function look() {
    const answer = await askServer(`/shots/${data.state.shot.id}/batch/live${machine === null ? '' : `?machine=${encodeURIComponent(machine)}`}`, 'GET');
    // A server that is away is told at the foot of every page.
    if (!answer.ok) return;
    const before = heard;
    heard = batchViewSchema.nullable().parse(answer.value);
    if (heard && before?.id === heard.id) tellChanges(before, heard);
  }

  /** Says what a person who looks elsewhere wants to know: that it is done, or stuck. */
  function tellChanges(before: BatchView, now: BatchView) {
    const { name } = data.state.shot;
    if (before.outcome === null && now.outcome !== null) {
      looking = true;
      tellPerson(`${name}: ${now.outcome}`, `${now.sound} sound, ${now.bad} bad of ${now.total} frames.`);
      void invalidateAll();
    }
    for (const alarm of now.alarms) {
      if (!alarm.settled && !before.alarms.some(({ id }) => id === alarm.id)) tellPerson(`${name}: ${alarm.machine || 'render service'}`, alarm.message);
    }
  }

  $effect(() => {
    void machine;
    if (!active) return;
    void untrack(look);
    const timer = setInterval(() => void look(), LOOK_EVERY);
    return () => clearInterval(timer);
  });

  let asking: Promise<unknown> = Promise.resolve();

  /** Sends what is wanted, one after the other: what was pressed last is what counts. */
  async function control(request: ControlRequest) {
    refused = '';
    const answered = asking.then(() => askServer(`/shots/${data.state.shot.id}/batch/control`, 'POST', request));
    asking = answered;
    const answer = await answered;
    if (!answer.ok) refused = answer.refused;
    await look();
  }
</script>

<svelte:head><title>{title}{data.state.shot.name}: batch · Mint Tally</title></svelte:head>

<main class="flex min-h-0 flex-1 flex-col">
  {#if refused}<Problem message={refused} />{/if}
  {#if batch && (active || looking)}
    <div class="flex items-center gap-3 border-b border-line px-4.5 py-2">
      <h2 class="font-bold">{batch.service === null ? 'Watching the folder' : `Batch on ${batch.service}`}</h2>
      <span class="text-[13px] text-soft">begun {formatAgo(batch.createdAt, Date.now())}</span>
      <span class="flex-1"></span>
      {#if active && asked === 'default'}<button type="button" class="button button-small" onclick={async () => (asked = await askToTell())}
          >Tell me when it is done or stuck</button
        >{/if}
      {#if batch.restCount > 0}{@render goOn(batch)}{/if}
      {#if !active}<button type="button" class="button button-small" onclick={() => (looking = false)}>Next batch</button>{/if}
    </div>
    <BatchRun shotId={data.state.shot.id} {batch} {machine} onmachine={(name) => ((machine = name), void look())} oncontrol={control} />
  {:else}
    {#if batch}
      <div class="flex items-center gap-3 border-b border-line px-4.5 py-1.5 text-[13px]">
        <span
          >The last batch {batch.outcome === 'done' ? 'was done' : batch.outcome === 'stopped' ? 'was stopped' : 'failed'}
          {formatAgo(batch.endedAt ?? batch.createdAt, Date.now())}: <span class="figure">{batch.done}</span> of <span class="figure">{batch.total}</span>
          frames,
          <span class="figure">{batch.bad}</span> bad.</span
        >
        {#if batch.error}<span class="min-w-0 truncate text-bad" title={batch.error}>{batch.error}</span>{/if}
        <span class="flex-1"></span>
        {#if batch.restCount > 0}{@render goOn(batch)}{/if}
        <button type="button" class="button button-small" onclick={() => (looking = true)}>Look at it</button>
      </div>
    {/if}
    <SplitForm
      shotId={data.state.shot.id}
      shotName={data.state.shot.name}
      remainder={data.remainder}
      listed={data.listed}
      wantsListed={data.wantsListed}
      choices={data.choices}
      onstarted={look}
    />
  {/if}
</main>

{#snippet goOn({ rest, restCount }: BatchView)}
  <button
    type="button"
    class="button button-main button-small max-w-[340px] truncate"
    title="Same passes, command and machines; {counted(restCount, 'frame')} that the last count finds lacking: {rest}"
    onclick={() => void control({ action: 'go-on' })}>Go on with {rest.length > 30 ? counted(restCount, 'frame') : rest}</button
  >
{/snippet}
