<!-- Test frames that are measured: rendered on the spot by a render service, or found in a folder. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { RENDERS_EACH, secondsAt, type TimeFit } from '@mint-tally/core';
  import { askServer } from '$lib/asking/ask-server';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import FolderDialog from '$lib/folders/FolderDialog.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import { counted, formatSeconds } from '$lib/text/format';
  import { newTest, type BriefDraft } from './draft';
  import type { Measuring } from './measuring';

  let { draft = $bindable(), measuring, time, onchange }: { draft: BriefDraft; measuring: Measuring; time: TimeFit | null; onchange: () => void } = $props();

  const live = useLive();
  const job = $derived(live.job(measuring.shotId, 'measure'));
  const running = $derived(live.active(measuring.shotId, 'measure'));
  const newest = $derived(measuring.newest);

  let service = $state(untrack(() => measuring.services[0] ?? ''));
  let frame = $state('');
  let counts = $state('4 16 64');
  let refused = $state('');
  let choosing = $state(false);
  /** What was there when the page opened has been taken or left already. */
  let settled = $state(untrack(() => measuring.newest?.jobId ?? 0));
  /** A failure is told for what was asked for here, not for what somebody tried yesterday. */
  let asked = $state(0);

  const wanted = $derived(
    counts
      .trim()
      .split(/[\s,]+/)
      .map(Number),
  );
  /** What would be rendered, and for how long as far as the law of the rows below knows; empty while the counts are none. */
  const foretold = $derived.by(() => {
    if (!wanted.every((samples) => Number.isInteger(samples) && samples > 0)) return '';
    const renders = `${counted(wanted.length * RENDERS_EACH, 'render')}, one after the other`;
    if (!time) return `${renders}; how long that takes is known once two rows have seconds`;
    return `${renders}: about ${formatSeconds(wanted.reduce((sum, samples) => sum + RENDERS_EACH * secondsAt(time, samples), 0))}`;
  });

  async function ask(source: object) {
    refused = '';
    const answer = await askServer(`/shots/${measuring.shotId}/measure`, 'POST', source);
    if (answer.ok) asked = (answer.value as { jobId: number }).jobId;
    else refused = answer.refused;
  }

  const renderTests = () =>
    ask({
      from: 'service',
      service,
      frame: Number(frame.trim() || measuring.middleFrame),
      samples: wanted,
    });

  function use() {
    if (!newest) return;
    const { tests, gradients } = newest.result;
    // What was measured takes the place of what stood there for the same samples.
    const kept = draft.tests.filter((row) => row.samples.trim() !== '' && !tests.some(({ samples }) => String(samples) === row.samples.trim()));
    draft.tests = [...kept, ...tests.map((test) => newTest(test))].sort((a, b) => Number(a.samples) - Number(b.samples));
    draft.gradients = gradients;
    settled = newest.jobId;
    onchange();
  }

  const seedsTold = {
    independent: 'seeds of their own',
    continued: 'each render goes on where the shorter ended',
    unknown: 'too few to tell whether their seeds differ',
  };
</script>

<div class="mt-2 flex flex-wrap items-end gap-x-2.5 gap-y-2 text-[13px]" role="group" aria-label="Measure test frames">
  {#if measuring.services.length > 0}
    <label class="block"
      ><span class="mb-0.5 block text-soft">Frame</span><input
        class="field figure w-[74px]!"
        bind:value={frame}
        inputmode="numeric"
        placeholder={String(measuring.middleFrame ?? '')}
      /></label
    >
    <label class="block"
      ><span class="mb-0.5 block text-soft">At samples</span><input class="field figure w-[108px]!" bind:value={counts} spellcheck="false" /></label
    >
    {#if measuring.services.length > 1}
      <Select label="On" bind:value={service} options={measuring.services.map((name) => [name, name])} />
    {/if}
    <button type="button" class="button" disabled={running !== null} onclick={renderTests}>Render and measure</button>
  {/if}
  <button type="button" class="button" disabled={running !== null} onclick={() => (choosing = true)}>Measure from a folder…</button>
  {#if running}<div class="w-[330px] pb-1"><JobBar job={running} wide /></div>{/if}
</div>
{#if measuring.services.length > 0 && !running && foretold !== ''}<p class="mt-1 text-[12.5px] text-soft" data-testid="foretold">{foretold}</p>{/if}
{#if refused}<div class="mt-2"><Problem message={refused} /></div>{/if}
{#if job?.state === 'failed' && job.id === asked && job.error}<div class="mt-2"><Problem message={job.error.message} remedy={job.error.remedy} /></div>{/if}
{#if newest && newest.jobId > settled && !running}
  <div class="mt-2 flex items-center gap-3 border border-mint px-3 py-2 text-[13px]" role="status">
    <div class="min-w-0 flex-1">
      <div>
        Measured {counted(newest.result.tests.length, 'sample count')} from {newest.result.source}: {seedsTold[
          newest.result.seeds
        ]}{#if newest.result.spread > 1.25}, but the pairs differ by <span class="figure">{newest.result.spread.toFixed(2)} x</span>: are they of one frame?{/if}
      </div>
      <div class="figure text-soft">
        {newest.result.tests
          .map(({ samples, noise, seconds }) => `${samples}: ${noise?.toPrecision(3) ?? '–'}${seconds === null ? '' : `, ${seconds.toPrecision(3)} s`}`)
          .join('   ')}
      </div>
      {#each newest.result.left as { name, why } (name)}<div class="text-soft">{name} was left out. {why}</div>{/each}
    </div>
    <button type="button" class="button button-small" onclick={use}>Use these</button>
    <button type="button" class="button button-small" onclick={() => (settled = newest.jobId)}>Leave</button>
  </div>
{/if}

<FolderDialog
  bind:open={choosing}
  title="Test frames in a folder"
  text="Renders of one frame at two or more sample counts. Samples and times are read from the files."
  roots={measuring.roots}
  onchoose={(root, folder) => void ask({ from: 'folder', root, folder })}
/>
