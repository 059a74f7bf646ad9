<!-- What to render, on which machines, in which shares and order; with the proof that nothing is lost. -->
<script lang="ts">
  import { formatFrameRange, formatInOrder, parseFrameSet, splitAsText, splitRows, writeCsv } from '@mint-tally/core';
  import { untrack } from 'svelte';
  import { askServer } from '$lib/asking/ask-server';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import NumberField from '$lib/controls/NumberField.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import FrameList from '$lib/text/FrameList.svelte';
  import { counted, formatCount, formatSeconds } from '$lib/text/format';
  import type { RemainderView, ServiceChoice } from './batch-view';
  import QueueList from './QueueList.svelte';
  import { SplitDraft, WATCHED } from './split-draft.svelte';
  import LocalRendererHint from './LocalRendererHint.svelte';
  import MachineTable from './MachineTable.svelte';
  import SplitStrip from './SplitStrip.svelte';

  let {
    shotId,
    shotName,
    remainder,
    listed,
    wantsListed,
    choices,
    onstarted,
  }: {
    shotId: number;
    shotName: string;
    remainder: RemainderView;
    /** What somebody has put on the list of what is to be rendered again. */
    listed: RemainderView['groups'];
    /** Whether that is what is wanted first. */
    wantsListed: boolean;
    choices: readonly ServiceChoice[];
    onstarted: () => void;
  } = $props();

  const ordered = $derived(parseFrameSet(remainder.ordered));
  const toRender = $derived(parseFrameSet(remainder.render));
  const toDecide = $derived(parseFrameSet(remainder.decide));
  const newDraft = () =>
    new SplitDraft(
      untrack(() => remainder),
      () => choices,
    );
  let draft = $state.raw(newDraft());
  if (untrack(() => wantsListed && listed.length > 0)) untrack(() => draft.chooseGroup(listed[0]!, true));
  /** What was to be rendered when the split was begun, and how it stood before anybody touched it. */
  let basis = $state.raw(untrack(() => remainder));
  let untouched = untrack(() => draft.text());
  const said = ({ render, ordered }: RemainderView) => `${render} of ${ordered}`;
  const isOutdated = $derived(said(remainder) !== said(basis));

  function renew() {
    draft = newDraft();
    basis = remainder;
    untouched = draft.text();
  }

  // A count that ends elsewhere changes what is to be rendered: a split that nobody has touched follows it,
  // one that somebody is making up stays and says so.
  $effect(() => {
    if (isOutdated && untrack(() => draft.text()) === untouched) untrack(renew);
  });

  const rules = [
    ['speed', 'by speed'],
    ['even', 'even'],
    ['interleaved', 'in turn'],
    ['hand', 'by hand'],
  ] as const;
  const orders = [
    ['forward', 'forward'],
    ['scout', 'scouts first'],
    ['dragged', 'as dragged'],
  ] as const;

  /** Whether there is more than one to share the frames. */
  const splits = $derived(draft.service !== WATCHED || draft.chosen.some(({ name }) => name !== ''));

  let starting = $state(false);
  let refused = $state('');

  async function start() {
    starting = true;
    refused = '';
    const answer = await askServer(`/shots/${shotId}/batch/control`, 'PUT', draft.request());
    starting = false;
    if (answer.ok) onstarted();
    else refused = answer.refused;
  }

  function download(name: string, type: string, text: string) {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type }));
    link.download = name;
    link.click();
    URL.revokeObjectURL(link.href);
  }

  const expected = (machine: string, frames: number) => {
    const middle = draft.machines.find(({ name }) => name === machine)?.medianSeconds ?? null;
    return middle === null ? '–' : formatSeconds(middle * frames);
  };
</script>

<div class="grid min-h-0 flex-1 grid-cols-[430px_minmax(0,1fr)] small:grid-cols-1">
  <section class="overflow-y-auto border-r border-line px-4.5 py-3 small:border-r-0 small:border-b" aria-label="What to render">
    <p>
      {#if toRender.isEmpty}{remainder.denoise.length === 0 ? 'Every ordered frame is there and sound: nothing' : 'Nothing'} is left to render.
      {:else}<b class="figure">{formatCount(toRender.size)}</b> of {formatCount(ordered.size)} ordered frames are not sound yet.{/if}
      {#if !toDecide.isEmpty}<span class="mt-1 block text-[13px] text-soft"
          ><span class="figure"><FrameList text={formatFrameRange(toDecide)} /></span> need a decision, not a render: see the docket.</span
        >{/if}
      {#each remainder.denoise as { name, frames } (name)}<span class="mt-1 block text-[13px] text-soft"
          ><span class="[overflow-wrap:anywhere]">{name}</span> lacks <span class="figure"><FrameList text={frames} /></span>: it is not rendered, but
          <a class="underline" href="/shots/{shotId}/assay/denoise">denoised</a>.</span
        >{/each}
    </p>
    {#if listed.length > 0}
      <h3 class="mt-2 text-[13px] text-soft">On the list to render again (<a class="underline" href="/shots/{shotId}/mend?do=list">why</a>)</h3>
      <ul class="border-t border-line text-[13px]" aria-label="On the list to render again">
        {#each listed as group (group.passes.join())}{@render choice(group, true)}{/each}
      </ul>
    {/if}
    {#if listed.length > 0 && remainder.groups.length > 1}<h3 class="mt-2 text-[13px] text-soft">Not sound by the last count</h3>{/if}
    {#if remainder.groups.length > 1}
      <ul class="mt-2 border-t border-line text-[13px]" aria-label="What is left, by pass">
        {#each remainder.groups as group (group.passes.join())}{@render choice(group, false)}{/each}
      </ul>
      <p class="mt-1 text-[12.5px] text-soft">Passes that lack the same frames are rendered together, so that no good frame is rendered again.</p>
    {/if}
    {#if isOutdated}
      <p role="status" class="mt-2 border-l-[3px] border-mint bg-ground px-3 py-1.5 text-[13px]">
        What is left to render has changed since you began here: <span class="figure">{remainder.render || 'nothing'}</span>. Your split is as you made it.
        <button type="button" class="underline hover:text-ink" onclick={renew}>Begin anew with that</button>
      </p>
    {/if}
    <div class="mt-2 grid grid-cols-[minmax(0,1fr)_auto_auto] items-start gap-2">
      <TextField label="Frames" figure bind:value={draft.range} problem={draft.frames.problem} field="range" />
      <button type="button" class="button mt-[25px]" onclick={() => (draft.range = remainder.render)}>What is left</button>
      <button type="button" class="button mt-[25px]" onclick={() => (draft.range = remainder.ordered)}>All</button>
    </div>
    {#if draft.service !== WATCHED}
      <fieldset class="mt-1 flex flex-wrap gap-x-4 gap-y-1 text-[13px]">
        <legend class="float-left mr-3 text-soft">Passes</legend>
        {#each draft.passes as pass (pass.name)}
          <label class="flex items-center gap-1.5"><input type="checkbox" class="accent-(--mint)" bind:checked={pass.chosen} />{pass.name}</label>
        {/each}
      </fieldset>
    {/if}
    {#if draft.overwritten.length > 0}
      <label class="mt-2 flex items-start gap-2 border border-odd px-3 py-2 text-[13px]"
        ><input type="checkbox" class="mt-1 accent-(--mint)" bind:checked={draft.overwrite} /><span class="min-w-0"
          >Write over what is there and needs no render:
          {#each draft.overwritten as { pass, frames } (pass)}<span class="block [overflow-wrap:anywhere]"
              >{pass} <span class="figure"><FrameList text={formatFrameRange(frames)} /></span> ({counted(frames.size, 'frame')})</span
            >{/each}</span
        ></label
      >
    {/if}

    <div class="mt-3">
      <Select
        label="Rendered by"
        bind:value={() => draft.service, (service) => draft.chooseService(service)}
        options={[...choices.map(({ name }) => [name, name] as const), [WATCHED, 'Rendered elsewhere: watch the folder']]}
      />
    </div>
    {#if !choices.some(({ fixed }) => fixed)}
      <LocalRendererHint />
    {/if}
    {#if draft.service === WATCHED}
      <div class="mt-2"><TextField label="Machines that people start, for the split" figure bind:value={draft.named} placeholder="bowline reef clove" /></div>
    {/if}
    {#if draft.problem}<div class="mt-2"><Problem message={draft.problem} /></div>{/if}
    <MachineTable {draft} />
    {#if splits}
      <div class="mt-3 grid grid-cols-2 gap-x-3 gap-y-2">
        <Select label="Shares" bind:value={draft.rule} options={rules} />
        <NumberField label="Frames at a time" min="1" max="10000" bind:value={draft.chunk} />
        <NumberField label="Alarm after bad in a row" min="1" max="1000" bind:value={draft.badInRow} />
        <NumberField label="Priority" min="-1000" max="1000" bind:value={draft.priority} />
        <label class="col-span-2 flex items-center gap-2"
          ><input type="checkbox" class="accent-(--mint)" bind:checked={draft.stopBadMachine} />Take such a machine out, and give its frames to the others</label
        >
      </div>
      {#if draft.service !== WATCHED}<details class="mt-3">
          <summary class="text-soft">Command, an argument a line</summary>
          <textarea class="field figure mt-1 h-[150px] text-[12.5px]" spellcheck="false" aria-label="Command" bind:value={draft.command} readonly={draft.fixed}
          ></textarea>
          <p class="mt-1 text-[13px] text-soft">
            <span class="figure">{'{frame}'}</span> and <span class="figure">{'{folder}'}</span> are filled by the service; doubled braces are braces. The
            stand-in farm lets things go wrong on request, as with <span class="figure">--faults=reef:cut-short:1010</span>.
          </p>
        </details>{/if}
    {/if}
  </section>

  <section class="flex min-w-0 flex-col overflow-y-auto px-4.5 py-3" aria-label="Split">
    {#if draft.service === WATCHED}
      <h2 class="font-bold">Rendered elsewhere</h2>
      <p class="mt-1 max-w-[560px] text-soft">
        {splits ? 'Start the machines with these shares.' : 'Name the machines to share the frames out, and start them yourself.'} Frames appear in the ribbon as
        they arrive in the shot’s folder; each is checked when it has not changed for 3 seconds.
      </p>
    {/if}
    {#if splits}
      <div class={['flex items-center gap-2', draft.service === WATCHED && 'mt-4']}>
        <h2 class="mr-auto font-bold">Split</h2>
        <CopyButton small text={splitAsText(draft.shares)} label="Copy as text" />
        <button type="button" class="button button-small" onclick={() => download(`${shotName}_split.csv`, 'text/csv', writeCsv(splitRows(draft.shares)))}
          >CSV</button
        >
        <button
          type="button"
          class="button button-small"
          onclick={() => download(`${shotName}_split.json`, 'application/json', `${JSON.stringify({ shot: shotName, shares: draft.shares }, null, 2)}\n`)}
          >JSON</button
        >
      </div>
      <div class="mt-2" hidden={draft.frames.set.isEmpty}>
        <SplitStrip frames={draft.frames.set} shares={draft.shares} borders={draft.borders} onmove={(i, at) => draft.moveBorder(i, at)} />
      </div>
      <table class="mt-1 w-full table-fixed text-left text-[13px]" aria-label="Shares">
        <thead
          ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:font-normal"
            ><th class="w-[110px]">Machine</th><th class="w-[70px] text-right">Frames</th><th class="w-[90px] text-right">About</th><th class="pl-5"
              >In this order</th
            ></tr
          ></thead
        >
        <tbody>
          {#each draft.shares as { machine, frames } (machine)}
            <tr class="border-b border-line align-top [&>td]:py-1">
              <td>{machine}</td>
              <td class="figure text-right">{formatCount(frames.length)}</td>
              <td class="figure text-right text-soft">{expected(machine, frames.length)}</td>
              <td class="figure pl-5 [overflow-wrap:anywhere]">{frames.length === 0 ? '–' : formatInOrder(frames)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="mt-2 flex items-center gap-2" data-testid="proof">
        <StateMark state={draft.proof.holds ? 'sound' : 'broken'} size={14} />
        <span
          ><span class="figure">{formatCount(draft.proof.ordered)}</span> to render, <span class="figure">{formatCount(draft.proof.given)}</span> given out;
          {draft.proof.twice.isEmpty ? 'none twice' : `twice: ${formatFrameRange(draft.proof.twice)}`},
          {draft.proof.left.isEmpty ? 'none left' : `left: ${formatFrameRange(draft.proof.left)}`}.</span
        >
      </p>
      <div class="mt-4 flex items-center gap-3">
        <h3 class="font-bold">Order</h3>
        <div class="flex gap-4" role="radiogroup" aria-label="Order of rendering">
          {#each orders as [value, title] (value)}
            <label class="flex items-center gap-1.5"
              ><input
                type="radio"
                name="order"
                class="accent-(--mint)"
                checked={draft.order === value}
                onchange={() => (value === 'dragged' ? draft.setPieces(draft.pieces) : (draft.order = value))}
              />{title}</label
            >
          {/each}
        </div>
      </div>
      <div class="mt-2 max-w-[420px]"><QueueList pieces={draft.pieces} onorder={(pieces) => draft.setPieces(pieces)} /></div>
    {/if}
  </section>
</div>
<footer class="flex shrink-0 flex-wrap items-center gap-3 border-t border-line px-4.5 py-2">
  <button type="button" class="button button-main" disabled={draft.hindrance !== '' || starting} onclick={start}
    >{draft.service === WATCHED ? 'Watch' : 'Render'} {counted(draft.frames.set.size, 'frame')}</button
  >
  <a class="button" href="/shots/{shotId}/batch/merge">Merge folders…</a>
  {#if refused}<span role="alert" class="text-bad">{refused}</span>{:else if draft.hindrance}<span class="text-[13px] text-soft">{draft.hindrance}</span>{/if}
</footer>

{#snippet choice(group: RemainderView['groups'][number], overwrites: boolean)}
  {@const isChosen = draft.range === group.frames && draft.passes.every(({ name, chosen }) => chosen === group.passes.includes(name))}
  <li class="flex items-center gap-3 border-b border-line py-1">
    <span class="min-w-0 flex-1">{group.passes.join(', ')} <span class="figure text-soft"><FrameList text={group.frames} /></span></span>
    <button type="button" class="button button-small" disabled={isChosen} onclick={() => draft.chooseGroup(group, overwrites)}
      >{isChosen ? 'Chosen' : 'Choose'}</button
    >
  </li>
{/snippet}
