<!-- A batch while it goes on: how far it is, when it will be done, what every machine does, and what is wrong. -->
<script lang="ts">
  import { formatFrameRange, FrameSet } from '@mint-tally/core';
  import Problem from '$lib/controls/Problem.svelte';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import Select from '$lib/controls/Select.svelte';
  import RenderThese from '$lib/mend/RenderThese.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { formatCount, formatMoment, formatSeconds } from '$lib/text/format';
  import type { BatchView, ControlRequest } from './batch-view';

  let {
    shotId,
    batch,
    machine,
    onmachine,
    oncontrol,
  }: { shotId: number; batch: BatchView; machine: string | null; onmachine: (name: string | null) => void; oncontrol: (request: ControlRequest) => void } =
    $props();

  const active = $derived(batch.outcome === null);
  const stopping = $derived(batch.wanted.startsWith('stop'));
  const standing = $derived(batch.alarms.filter(({ settled }) => !settled));
  const past = $derived(batch.alarms.filter(({ settled }) => settled));
  const share = $derived(batch.total === 0 ? 0 : batch.done / batch.total);
  const time = (iso: string) => new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' }).format(new Date(iso));
  const alarmTitles: Record<string, string> = {
    'bad-in-row': 'bad frames in a row',
    stuck: 'stuck',
    'machine-down': 'no answer',
    'service-lost': 'The render service is away',
    trouble: 'The batch cannot go on for now',
  };
  /** The lines as they were said, oldest first, as text. */
  const logText = $derived(batch.lines.map(({ at, machine: by, text }) => [at, by, text].filter(Boolean).join('\t')).join('\n'));

  const doing = (view: BatchView['machines'][number]) => {
    if (view.out) return 'taken out';
    if (view.state === 'down') return 'no answer';
    if (view.frame !== null) return `frame ${view.frame}${view.share > 0 ? `, ${Math.round(view.share * 100)} %` : ''}`;
    if (view.done === view.total) return 'done';
    return batch.wanted === 'pause' ? 'paused' : (view.state ?? 'waits');
  };
</script>

<div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,470px)] max-[1100px]:grid-cols-[minmax(0,1fr)_minmax(0,360px)] small:grid-cols-1">
  <section class="flex min-h-0 flex-col overflow-y-auto px-4.5 py-3" aria-label="Progress">
    <div class="flex flex-wrap items-end gap-x-6 gap-y-2">
      <div>
        <span class="figure text-[28px] leading-none">{formatCount(batch.done)}</span><span class="figure text-soft"> / {formatCount(batch.total)}</span>
        <div class="text-[13px] text-soft">frames done</div>
      </div>
      <div>
        <div class="flex items-center gap-2">
          <StateMark state="sound" size={13} /><span class="figure text-[20px]" data-testid="batch-sound">{formatCount(batch.sound)}</span>
        </div>
        <div class="text-[13px] text-soft">sound</div>
      </div>
      {#if batch.odd > 0}
        <div>
          <div class="flex items-center gap-2">
            <StateMark state="odd" size={13} /><span class="figure text-[20px]" data-testid="batch-odd">{formatCount(batch.odd)}</span>
          </div>
          <div class="text-[13px] text-soft">to be looked at</div>
        </div>
      {/if}
      <div>
        <div class="flex items-center gap-2">
          <StateMark state="broken" size={13} /><span class={['figure text-[20px]', batch.bad > 0 && 'text-bad']} data-testid="batch-bad"
            >{formatCount(batch.bad)}</span
          >
        </div>
        <div class="text-[13px] text-soft">bad</div>
      </div>
      <div class="ml-auto text-right text-[13px]" data-testid="time-left">
        {#if !active}<span class="text-soft">{batch.outcome} {batch.endedAt ? formatMoment(batch.endedAt) : ''}</span>
        {:else if stopping}Stopping …
        {:else if batch.wanted === 'pause'}Paused
        {:else if batch.left}
          about <b class="figure">{formatSeconds(batch.left.seconds)}</b> left
          <span class="figure text-soft">({formatSeconds(batch.left.low)} to {formatSeconds(batch.left.high)})</span><br /><span class="text-soft"
            >done about <span class="figure">{time(new Date(Date.now() + batch.left.seconds * 1000).toISOString())}</span></span
          >
        {:else}<span class="text-soft">no frame is done yet</span>{/if}
      </div>
    </div>
    <div class="mt-2 h-1.5 bg-line" role="progressbar" aria-label="Frames done" aria-valuemin="0" aria-valuemax="100" aria-valuenow={Math.round(share * 100)}>
      <div class="h-full bg-mint" style="width: {share * 100}%"></div>
    </div>
    {#if batch.error}<div class="mt-3"><Problem message={batch.error} /></div>{/if}
    {#if batch.unheard}<div class="mt-3"><Problem message={batch.unheard} /></div>{/if}

    {#if batch.machines.some(({ name }) => name !== '')}
      <table class="mt-4 w-full text-left text-[13px]" aria-label="Machines">
        <thead
          ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:font-normal"
            ><th>Machine</th><th>Now</th><th class="text-right">Since</th><th class="text-right">Done</th><th class="text-right">Bad</th><th class="text-right"
              >Typical time</th
            ><th><span class="sr-only">Actions</span></th></tr
          ></thead
        >
        <tbody>
          {#each batch.machines as view (view.name)}
            <tr class="border-b border-line [&>td]:py-1" data-machine={view.name}>
              <td><b>{view.name}</b></td>
              <td class={view.state === 'down' && !view.out ? 'text-bad' : ''}>{doing(view)}</td>
              <td class="figure text-right text-soft">{view.frame === null ? '' : formatSeconds(view.sinceSeconds)}</td>
              <td class="figure text-right">{view.done} / {view.total}</td>
              <td class={['figure text-right', view.bad > 0 ? 'text-bad' : 'text-soft']}>{view.bad}</td>
              <td class="figure text-right text-soft">{view.medianSeconds === null ? '–' : `${view.medianSeconds.toFixed(1)} s`}</td>
              <td class="text-right">
                {#if active && batch.service !== null && !view.out && view.done < view.total}
                  {#if view.state === 'down' || (view.state !== null && standing.some((alarm) => alarm.kind === 'stuck' && alarm.machine === view.name))}<button
                      type="button"
                      class="button button-small"
                      onclick={() => oncontrol({ action: 'restart', machine: view.name })}>Restart</button
                    >{/if}
                  <button type="button" class="button button-small" onclick={() => oncontrol({ action: 'take-out', machine: view.name })}>Take out</button>
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}

    {#if standing.length > 0}
      <h2 class="mt-4 font-bold">Alarms</h2>
      <ul role="alert">
        {#each standing as alarm (alarm.id)}
          <li class="mt-1 flex gap-3 border border-bad px-3 py-2 text-[13px]" data-alarm={alarm.kind}>
            <span class="mt-0.5"><StateMark state="broken" size={13} /></span>
            <div class="min-w-0">
              <div class="text-[14px] font-bold">
                {alarm.machine ? `${alarm.machine}: ` : ''}{alarmTitles[alarm.kind] ?? alarm.kind}
                <span class="figure font-normal text-soft">{time(alarm.at)}</span>
              </div>
              <div class="[overflow-wrap:anywhere]">{alarm.message}</div>
            </div>
          </li>
        {/each}
      </ul>
    {/if}
    {@render frameList('Bad frames', batch.badFrames)}
    {@render frameList('To be looked at', batch.oddFrames)}
    {#if past.length > 0}
      <h2 class="mt-4 text-[13px] text-soft">Over</h2>
      <ul class="text-[13px] text-soft">
        {#each past as alarm (alarm.id)}
          <li class="mt-0.5 [overflow-wrap:anywhere]">
            <span class="figure">{time(alarm.at)}</span>
            {alarm.machine ? `${alarm.machine}: ` : ''}{alarm.message}
          </li>
        {/each}
      </ul>
    {/if}
  </section>

  <section class="flex min-h-0 flex-col border-l border-line small:border-t small:border-l-0" aria-label="Log">
    <div class="flex items-center gap-3 border-b border-line px-4 py-2">
      <h2 class="mr-auto font-bold">Log</h2>
      {#if batch.lines.length > 0}<CopyButton small text={logText} label="Copy log" />{/if}
      <Select
        label="Whose log"
        labelHidden
        class="w-[160px]!"
        bind:value={() => machine ?? '', (name) => onmachine(name || null)}
        options={[['', 'all machines'], ...batch.machines.filter(({ name }) => name !== '').map(({ name }) => [name, name] as const)]}
      />
    </div>
    <!-- The newest line is at the top: it is what one looks for. -->
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <ol class="figure min-h-0 flex-1 overflow-y-auto px-4 py-2 text-[12.5px] leading-snug" tabindex="0" aria-label="Lines, newest first">
      {#each [...batch.lines].reverse() as line, i (i)}
        <li class="flex gap-3">
          <span class="text-soft">{time(line.at)}</span><span class="w-[76px] shrink-0 truncate text-soft">{line.machine}</span><span
            class="[overflow-wrap:anywhere]">{line.text}</span
          >
        </li>
      {:else}<li class="font-sans text-[13px] text-soft">Nothing has been said yet.</li>{/each}
    </ol>
  </section>
</div>
{#if active}
  <footer class="flex shrink-0 flex-wrap items-center gap-2 border-t border-line px-4.5 py-2">
    {#if batch.service !== null}
      {#if batch.wanted === 'pause'}<button type="button" class="button button-main" onclick={() => oncontrol({ action: 'wish', wanted: 'run' })}>Go on</button>
      {:else}<button type="button" class="button" disabled={stopping} onclick={() => oncontrol({ action: 'wish', wanted: 'pause' })}>Pause</button>{/if}
      <button
        type="button"
        class="button"
        disabled={batch.wanted === 'stop-now' || batch.wanted === 'stop-after-frame'}
        onclick={() => oncontrol({ action: 'wish', wanted: 'stop-after-frame' })}>Stop after the frames in hand</button
      >
    {/if}
    <button type="button" class="button" disabled={batch.wanted === 'stop-now'} onclick={() => oncontrol({ action: 'wish', wanted: 'stop-now' })}
      >{batch.service === null ? 'Stop watching' : 'Stop now'}</button
    >
  </footer>
{/if}

{#snippet frameList(title: string, frames: BatchView['badFrames'])}
  {#if frames.length > 0}
    <div class="mt-4 flex items-center gap-3">
      <h2 class="font-bold">{title}</h2>
      <CopyButton small text={formatFrameRange(FrameSet.of(frames.map(({ frame }) => frame)))} label="Copy range" />
      <RenderThese
        {shotId}
        entries={[{ pass: '', frames: formatFrameRange(FrameSet.of(frames.map(({ frame }) => frame))) }]}
        reason="{title} of a batch"
        origin="batch"
      />
    </div>
    <table class="mt-1 w-full text-left text-[13px]" aria-label={title}>
      <tbody>
        {#each frames as { frame, machine: by, says } (frame)}
          <tr class="border-b border-line align-top [&>td]:py-0.5"
            ><td class="figure w-[70px]">{frame}</td><td class="w-[100px] text-soft">{by}</td><td>{says}</td></tr
          >
        {/each}
      </tbody>
    </table>
  {/if}
{/snippet}
