<!-- The assay on one page that prints well: what a lead reads in a minute. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { findingCodes, fitNoise, median, noiseAt, sayOfFigures } from '@mint-tally/core';
  import { gateStates } from '$lib/coin/gates';
  import FigureLine from '$lib/assay/FigureLine.svelte';
  import { sayFigure, summarise } from '$lib/assay/figures';
  import { needsOf } from '$lib/assay/needs';
  import { heatOf } from '$lib/assay/paint-heat';
  import { heatReference } from '$lib/assay/tiles';
  import HeatLegend from '$lib/assay/HeatLegend.svelte';
  import { counted, formatMoment } from '$lib/text/format';

  let { data } = $props();

  const shot = $derived(data.state);
  const target = $derived(shot.brief.sampling?.noise ?? null);
  const frames = $derived(data.figures?.frames ?? []);
  const passes = $derived(
    summarise(frames, 'noise').map((summary) => ({ ...summary, values: frames.filter(({ pass }) => pass === summary.pass).map(({ noise }) => noise) })),
  );
  const inTime = $derived(new Map(summarise(frames, 'temporalNoise').map(({ pass, usual }) => [pass, usual])));
  const above = $derived((pass: string) =>
    target === null ? 0 : frames.filter((frame) => frame.pass === pass && frame.noise !== null && frame.noise > target).length,
  );
  const findings = $derived(
    shot.findings.filter(({ family, code }) => family === 'noise' || family === 'passes' || code === 'flicker' || code === 'fireflies'),
  );
  const tests = $derived(shot.brief.sampling?.tests ?? []);
  const fit = $derived(fitNoise(tests));
  /** What the first pass usually has, at the samples that most of its frames note. */
  const measured = $derived.by(() => {
    const [first] = passes;
    const samples = frames.filter((frame) => frame.pass === first?.pass && frame.samples !== null).map((frame) => frame.samples!);
    return first?.usual == null || samples.length === 0 ? null : { pass: first.pass, samples: median(samples), noise: first.usual };
  });
  const standing = $derived(shot.findings.filter(({ waiver }) => waiver === null));
  const needs = $derived(needsOf(shot.brief, standing));
  const gates = $derived(shot.gates.filter(({ name }) => name === 'noise' || name === 'passes'));
  const reference = $derived(data.tiles ? heatReference(data.tiles.sigmas, target) : 1);
  /** Painted by the browser alone. */
  let alive = $state(false);
  onMount(() => {
    alive = true;
  });
  const heat = $derived(alive && data.tiles ? heatOf(data.tiles, reference) : null);
</script>

<svelte:head><title>{shot.shot.name}: assay report · Mint Tally</title></svelte:head>

<main class="sheet min-h-0 flex-1 overflow-y-auto px-8 py-6 text-[13px] print:p-0 print:text-[10.5px]">
  <div class="flex items-baseline justify-between">
    <h2 class="text-[22px] font-bold">{shot.shot.name} <span class="font-normal text-soft">{shot.shot.note}</span></h2>
    <span class="flex gap-2 print:hidden">
      <a class="button" href="/shots/{shot.shot.id}/assay">Back to the assay</a>
      <button type="button" class="button" onclick={() => print()}>Print</button>
    </span>
  </div>
  {#if !data.figures || shot.assay === null}
    <p class="mt-4">
      {data.figures ? 'What was measured is of other frames, or of another brief.' : 'Nothing has been measured yet.'} Measure the shot, then there is a report.
    </p>
  {:else}
    <p class="text-soft">
      {data.project.name}, brief version {shot.briefVersion}, measured {formatMoment(Date.parse(shot.assay.at))}. {#each gates as { name, state } (name)}
        <span class="mr-1">The gate <b class="text-ink">{name}</b> is {gateStates[state].title}.</span>
      {/each}
    </p>
    <div class="mt-4 flex flex-wrap gap-x-8 gap-y-4 print:!flex print:flex-nowrap print:gap-x-4">
      <div class="min-w-[440px] flex-1 print:min-w-0">
        <table class="w-full border-collapse text-left" aria-label="Noise of each pass">
          <thead
            ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
              ><th>Pass</th><th class="text-right">Usually</th><th class="text-right">In time</th><th class="text-right">At most</th><th>In frame</th><th
                class="text-right">{target === null ? '' : `Frames above ${target}`}</th
              ><th>Along the shot</th></tr
            ></thead
          >
          <tbody>
            {#each passes as { pass, usual, worst, values } (pass)}
              <tr class="border-b border-line [&>td]:py-1 [&>td]:pr-3">
                <th scope="row" class="py-1 pr-3 font-bold">{pass}</th>
                <td class="figure text-right">{sayFigure(usual)}</td>
                <td class="figure text-right">{sayFigure(inTime.get(pass) ?? null)}</td>
                <td class="figure text-right">{sayFigure(worst?.noise ?? null)}</td>
                <td class="figure">{worst?.frame ?? ''}</td>
                <td class="figure text-right">{target === null ? '' : above(pass)}</td>
                <td><FigureLine {values} most={Math.max(worst?.noise ?? 0, target ?? 0)} {target} /></td>
              </tr>
            {/each}
          </tbody>
        </table>
        {#if tests.length > 0}
          <h3 class="mt-4 font-bold">Test frames of the brief</h3>
          <table class="mt-1 text-left" aria-label="Test frames">
            <thead
              ><tr class="text-soft [&>th]:py-0.5 [&>th]:pr-6 [&>th]:text-right [&>th]:font-normal"
                ><th>Samples</th><th>Noise</th><th>By the fit</th><th>Seconds</th></tr
              ></thead
            >
            <tbody>
              {#each tests as { samples, noise, seconds }, i (i)}
                <tr class="[&>td]:figure [&>td]:py-0.5 [&>td]:pr-6 [&>td]:text-right"
                  ><td>{samples}</td><td>{sayFigure(noise)}</td><td>{fit ? sayFigure(noiseAt(fit, samples)) : ''}</td><td>{sayFigure(seconds)}</td></tr
                >
              {/each}
              {#if measured}
                <tr class="border-t border-line [&>td]:figure [&>td]:py-0.5 [&>td]:pr-6 [&>td]:text-right"
                  ><td>{measured.samples}</td><td>{sayFigure(measured.noise)}</td><td>{fit ? sayFigure(noiseAt(fit, measured.samples)) : ''}</td><td
                    class="!font-sans !text-left text-soft">{measured.pass} as it was measured</td
                  ></tr
                >
              {/if}
            </tbody>
          </table>
        {/if}
        <h3 class="mt-4 font-bold">What denoising and steadying need</h3>
        <ul class="mt-1">
          {#each needs as { role, what, pass, against } (role)}
            <li class="flex gap-2 py-0.5">
              <span class="w-[70px] shrink-0">{role}</span>
              <span class="text-soft"
                >{what}: {#if pass === null}<b class="text-ink">not ordered</b>{:else if against.length > 0}<b class="text-ink">{pass}</b>, but {against.join(
                    ', ',
                  )}{:else}<b class="text-ink">{pass}</b> is there and in step{/if}</span
              >
            </li>
          {/each}
        </ul>
      </div>
      {#if data.worst && data.tiles}
        <figure class="w-[300px] print:w-[200px] print:shrink-0">
          <div class="relative overflow-hidden bg-black" style="aspect-ratio: {data.tiles.width} / {data.tiles.height}">
            <img
              src="/shots/{shot.shot.id}/still?{new URLSearchParams({ pass: data.worst.pass, frame: String(data.worst.frame), counted: shot.count?.at ?? '' })}"
              alt="{data.worst.pass} frame {data.worst.frame}"
              class="absolute inset-0 h-full w-full"
            />
            <svg class="absolute inset-0 h-full w-full" viewBox="0 0 {data.tiles.width} {data.tiles.height}" preserveAspectRatio="none" aria-hidden="true">
              {#if heat}<image
                  href={heat.address}
                  width={heat.width}
                  height={heat.height}
                  preserveAspectRatio="none"
                  class="[image-rendering:pixelated]"
                />{/if}
            </svg>
          </div>
          <figcaption class="mt-1">
            The noisiest frame of {data.worst.pass}, <span class="figure">{data.worst.frame}</span>{#if data.tiles.worst.length > 0}: most of it comes from
              {data.tiles.worst.map(({ says, noise }) => `${says} (${sayFigure(noise)})`).join(', ')}{/if}.
            <HeatLegend sigmas={data.tiles.sigmas} ordered={target} />
          </figcaption>
        </figure>
      {/if}
    </div>
    <h3 class="mt-4 font-bold">{findings.length === 0 ? 'Nothing was found' : counted(findings.length, 'finding')}</h3>
    <ul>
      {#each findings as finding (`${finding.code} ${finding.pass} ${finding.detail}`)}
        <li class="border-b border-line py-1">
          <b>{findingCodes[finding.code].title}</b>, {finding.pass ?? 'no pass'} <span class="figure">{String(finding.frames)}</span>: {finding.message}
          {#if finding.waiver}<span class="text-soft">Waived by {finding.waiver.person}.</span>{/if}
        </li>
      {/each}
    </ul>
    <p class="mt-3 text-soft">
      Noise is the standard deviation of the sampling error of luminance, the root mean square over parts of 16 x 16 pixels.
      {sayOfFigures(data.figures)}
    </p>
  {/if}
</main>
