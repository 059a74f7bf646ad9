<!-- All that is known of the shot, on pages that print well: what goes with a handoff, and what is looked at when somebody asks later. -->
<script lang="ts">
  import FigureLine from '$lib/assay/FigureLine.svelte';
  import { sayFigure } from '$lib/assay/figures';
  import { gateStates } from '$lib/coin/gates';
  import { stateTitles } from '$lib/states/states';
  import { counted, formatCount, formatMoment, sayBytes } from '$lib/text/format';
  import type { FrameState } from '@mint-tally/core';

  let { data } = $props();

  const report = $derived(data.report);
  const shotId = $derived(data.state.shot.id);
  const names = Object.keys(stateTitles) as FrameState[];
  const most = (values: readonly (number | null)[]) => values.reduce<number>((highest, value) => Math.max(highest, value ?? 0), 0);
</script>

<svelte:head><title>{report.shot}: report · Mint Tally</title></svelte:head>

<main class="sheet min-h-0 flex-1 overflow-y-auto px-8 py-6 text-[14px] print:p-0 print:text-[10.5px]">
  <div class="flex items-baseline justify-between gap-4">
    <h2 class="text-[22px] font-bold">{[report.shot, report.version].filter(Boolean).join(' ')} <span class="font-normal text-soft">{report.note}</span></h2>
    <span class="flex flex-wrap justify-end gap-2 print:hidden">
      <a class="button button-small" href="/shots/{shotId}/handoff">Back to the handoff</a>
      <button type="button" class="button button-small" onclick={() => print()}>Print</button>
      <a class="button button-small" href="/shots/{shotId}/export/report.pdf" target="_blank" rel="noopener">PDF</a>
      <a class="button button-small" href="/shots/{shotId}/export/report.json" download>JSON</a>
    </span>
  </div>
  <p class="text-soft">
    {report.project}, frames <span class="figure">{report.range}</span>{report.fps === '' ? '' : `, ${report.fps} frames a second`}{report.resolution
      ? `, ${report.resolution.join(' x ')}`
      : ''}, brief version {report.briefVersion},
    {report.counted
      ? `counted ${formatMoment(report.counted.at)}: ${counted(report.counted.files, 'file')}, ${sayBytes(report.counted.bytes)}`
      : 'not counted'}. Made {formatMoment(report.madeAt)}.
  </p>
  <p class="mt-2"><b>{report.ready ? 'Ready to hand over.' : 'Not ready.'}</b> {report.ready ? '' : report.refusal}</p>
  <p>
    {#if report.stamp}{report.stamp.kind === 'signed' ? 'Signed off by' : 'Sent back by'} <b>{report.stamp.person}</b>, {formatMoment(report.stamp.at)}{report
        .stamp.note === ''
        ? ''
        : `: ${report.stamp.note}`}{report.stamp.broken === '' ? '' : `. It does not hold any more: ${report.stamp.broken}`}.
    {:else}Nobody has signed this version off.{/if}
  </p>

  <h3 class="mt-4 font-bold">Gates</h3>
  <table class="w-full border-collapse text-left" aria-label="Gates">
    <tbody>
      {#each report.gates as { name, asks, state, says } (name)}
        <tr class="border-b border-line align-top [&>td]:py-1 [&>td]:pr-3">
          <th scope="row" class="w-[100px] py-1 font-bold">{name}</th><td class="w-[150px]">{gateStates[state].title}</td><td>{asks}</td><td class="text-soft"
            >{says}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>

  <h3 class="mt-4 font-bold">Counts</h3>
  <table class="w-full border-collapse text-left" aria-label="Counts">
    <thead
      ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
        ><th>Pass</th><th class="text-right">Ordered</th>{#each names as name (name)}<th class="text-right">{stateTitles[name]}</th>{/each}<th
          >Missing and broken</th
        ></tr
      ></thead
    >
    <tbody>
      {#each report.passes as { name, expected, states, missing, broken } (name)}
        <tr class="border-b border-line [&>td]:py-1 [&>td]:pr-3">
          <th scope="row" class="py-1 pr-3 font-bold">{name}</th><td class="figure text-right">{formatCount(expected)}</td>
          {#each names as state (state)}<td class={['figure text-right', states[state] === 0 && 'text-soft']}>{formatCount(states[state])}</td>{/each}
          <td class="figure [overflow-wrap:anywhere]">{[missing, broken].filter(Boolean).join('; ')}</td>
        </tr>
      {/each}
    </tbody>
  </table>

  <h3 class="mt-4 font-bold">{report.findings.length === 0 ? 'Nothing was found' : counted(report.findings.length, 'finding')}</h3>
  <ul>
    {#each report.findings as { title, severity, pass, frames, message, waived, picture }, i (i)}
      <li class="flex gap-3 border-b border-line py-1.5 [break-inside:avoid] print:!flex">
        {#if picture}<img
            src="/shots/{shotId}/still?{new URLSearchParams({ pass: picture.pass, frame: String(picture.frame), counted: report.counted?.at ?? '' })}"
            alt="{picture.pass} frame {picture.frame}"
            class="h-auto w-[120px] shrink-0 self-start print:w-[80px]"
          />{/if}
        <span class="min-w-0">
          <b>{title}</b> <span class="text-soft">{severity}{pass ? `, ${pass}` : ''} <span class="figure [overflow-wrap:anywhere]">{frames}</span></span><br />
          {message}
          {#if waived}<br /><span class="text-soft">Waived by {waived.person}: {waived.reason}</span>{/if}
        </span>
      </li>
    {/each}
  </ul>
  {#if report.waivers.length > 0}
    <h3 class="mt-4 font-bold">Waived</h3>
    <ul>
      {#each report.waivers as { what, person, reason }, i (i)}<li class="py-0.5">{what}: {reason} ({person})</li>{/each}
    </ul>
  {/if}

  <h3 class="mt-4 font-bold">Noise along the shot</h3>
  {#if report.noise === null}<p class="text-soft">These frames were not measured.</p>{:else}
    <table class="border-collapse text-left" aria-label="Noise along the shot">
      <tbody>
        {#each report.noise.passes as { pass, values, usual } (pass)}
          <tr class="border-b border-line [&>td]:py-1 [&>td]:pr-4">
            <th scope="row" class="py-1 pr-4 font-bold">{pass}</th>
            <td class="text-soft">usually <span class="figure">{sayFigure(usual)}</span>, at most <span class="figure">{sayFigure(most(values))}</span></td>
            <td><FigureLine {values} most={Math.max(most(values), report.noise.target ?? 0)} target={report.noise.target} /></td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}

  <h3 class="mt-4 font-bold">Who watched</h3>
  {#each report.eyes as { pass, watched, left } (pass)}<p>
      {pass}: {left === '' ? `every frame, ${formatCount(watched)}` : `${counted(watched, 'frame')}; left are `}<span class="figure">{left}</span>
    </p>{:else}<p class="text-soft">The brief asks for no pass to be watched, or nothing has been counted.</p>{/each}
  <p>
    {report.watchers.length === 0
      ? 'Nobody has watched at the ordered rate and at full size.'
      : `At the ordered rate and at full size: ${report.watchers.join(', ')}.`}
  </p>

  <h3 class="mt-4 font-bold">Packages</h3>
  {#each report.packages as { folder, at, actor, files, bytes, manifestSha256, receipts }, i (i)}
    <p class="py-0.5">
      <span class="figure">{folder}</span>, {actor}, {formatMoment(at)}: {counted(files, 'file')}, {sayBytes(bytes)}<br />
      <span class="figure text-[11px] [overflow-wrap:anywhere] text-soft">{manifestSha256}</span>
      {#each receipts as receipt, i (i)}<br />Receipt: {receipt}{/each}
    </p>
  {:else}<p class="text-soft">None was written.</p>{/each}
</main>
