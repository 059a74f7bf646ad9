<!-- Test frames at several sample counts, the two laws fitted to them, and what a target costs over the range. -->
<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { fitNoise, fitTime, noiseAt, samplesForNoise, secondsAt, timesOutside, wallSeconds, type TestRender } from '@mint-tally/core';
  import NumberField from '$lib/controls/NumberField.svelte';
  import { formatMoment, formatSeconds } from '$lib/text/format';
  import CostChart from './CostChart.svelte';
  import { newTest, type BriefDraft } from './draft';
  import MeasureTests from './MeasureTests.svelte';
  import type { Measuring } from './measuring';
  import type { FieldProblems } from './field-problems.svelte';

  let {
    draft = $bindable(),
    problems,
    frames,
    measuring,
    onchange,
  }: { draft: BriefDraft; problems: FieldProblems; frames: number; measuring: Measuring | null; onchange: () => void } = $props();

  const asNumber = (value: string) => (value.trim() === '' || !(Number(value) > 0) ? null : Number(value));
  const tests: TestRender[] = $derived(
    draft.tests.flatMap((test) => {
      const samples = asNumber(test.samples);
      return samples === null ? [] : [{ samples, noise: asNumber(test.noise), seconds: asNumber(test.seconds) }];
    }),
  );
  const noise = $derived(fitNoise(tests));
  const time = $derived(fitTime(tests));
  const most = $derived(Math.max(1, ...tests.map((test) => test.samples)));

  let machines = $state(1);
  let dragged: number | null = $state(null);
  const wantedNoise = $derived(asNumber(draft.noise));
  const forTarget = $derived(noise && wantedNoise !== null ? samplesForNoise(noise, wantedNoise) : null);
  /** What is aimed at: where the slider stands, else what the brief says. */
  const samples = $derived(dragged ?? asNumber(draft.samples) ?? forTarget ?? most);
  const seconds = $derived(time && secondsAt(time, samples));
  const wall = $derived(seconds === null ? null : wallSeconds(frames, seconds, machines));
  const outside = $derived(Math.max(noise ? timesOutside(noise, samples) : 1, time ? timesOutside(time, samples) : 1));
  // The slider runs over powers of two, as sample counts do; between them it goes evenly.
  const TOP = 14;
  const KEYS: Readonly<Record<string, number>> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };

  /** A step of the slider by keys is one sample at least: less would be rounded back to where it was. */
  function stepByKey(event: KeyboardEvent) {
    const way = KEYS[event.key];
    if (way === undefined) return;
    event.preventDefault();
    dragged = Math.min(2 ** TOP, Math.max(1, samples + way * Math.max(1, Math.round(samples / 20))));
  }

  let now = $state(Date.now());
  $effect(() => {
    const timer = setInterval(() => (now = Date.now()), 30_000);
    return () => clearInterval(timer);
  });

  /** Machine time of the range at a test frame's seconds. */
  const costOf = (text: string) => {
    const each = asNumber(text);
    return each === null || frames === 0 ? '–' : formatSeconds(frames * each);
  };

  const figure = (value: number) => (value >= 100 ? value.toFixed(0) : value.toPrecision(3));

  function order() {
    draft.samples = String(samples);
    if (seconds !== null) draft.secondsPerFrame = String(Number(seconds.toPrecision(4)));
    dragged = null;
    onchange();
  }
</script>

<section class="mt-5" aria-label="Cost">
  <div class="flex items-end gap-3 border-b border-line pb-1">
    <h2 class="font-bold">Cost</h2>
    <span class="text-[13px] text-soft">Time a test frame at two or more sample counts; noise as the root mean square that an assay gives</span>
    <button
      type="button"
      class="button button-small ml-auto"
      onclick={() => {
        draft.tests.push(newTest());
        onchange();
      }}><Plus size={14} aria-hidden="true" />Add test frame</button
    >
  </div>
  {#if measuring}<MeasureTests bind:draft {measuring} {time} {onchange} />{/if}
  {#if draft.tests.length > 0}
    <div class="mt-2 grid grid-cols-[350px_minmax(0,1fr)] gap-5">
      <div>
        <table class="w-full table-fixed text-left text-[13px]">
          <thead
            ><tr class="text-soft [&>th]:py-1 [&>th]:font-normal"
              ><th>Samples</th><th>Noise</th><th>Seconds</th><th class="w-[84px]" title="Machine time of the whole range at these seconds a frame">The range</th
              ><th class="w-7"><span class="sr-only">Remove</span></th></tr
            ></thead
          >
          <tbody>
            {#each draft.tests as test, index (test.key)}
              <tr class="align-top [&>td]:pr-1.5 [&>td]:pb-1.5">
                <td
                  ><input
                    class="field figure"
                    bind:value={test.samples}
                    inputmode="numeric"
                    aria-label="Samples of test frame {index + 1}"
                    onblur={problems.entry(`sampling.tests.${index}.samples`).onblur}
                    aria-invalid={problems.shown(`sampling.tests.${index}.samples`) !== ''}
                  />
                  <span class="block text-bad">{problems.shown(`sampling.tests.${index}.samples`)}</span></td
                >
                <td><input class="field figure" bind:value={test.noise} inputmode="decimal" aria-label="Noise of test frame {index + 1}" /></td>
                <td><input class="field figure" bind:value={test.seconds} inputmode="decimal" aria-label="Seconds of test frame {index + 1}" /></td>
                <td class="figure pt-1.5! text-soft" data-testid="row-cost">{costOf(test.seconds)}</td>
                <td
                  ><button
                    type="button"
                    class="rounded p-1.5 text-soft hover:bg-hover hover:text-ink"
                    aria-label="Remove test frame {index + 1}"
                    title="Remove"
                    onclick={() => {
                      draft.tests.splice(index, 1);
                      onchange();
                    }}><Trash size={15} aria-hidden="true" /></button
                  ></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        {#if noise || time}
          <label class="mt-2 block text-[13px]"
            ><span class="flex justify-between text-soft"><span>Aim at</span><span class="figure text-ink">{samples} samples</span></span>
            <input
              type="range"
              class="mt-1 w-full accent-(--mint)"
              min="0"
              max={TOP}
              step="0.05"
              aria-label="Samples to aim at"
              aria-valuetext="{samples} samples"
              onkeydown={stepByKey}
              bind:value={() => Math.log2(samples), (power) => (dragged = Math.max(1, Math.round(2 ** power)))}
            />
          </label>
          <dl class="mt-2 grid grid-cols-[112px_1fr] gap-y-1 text-[13px] [&>dt]:text-soft" data-testid="cost">
            {#if noise}<dt>Noise</dt>
              <dd class="figure">
                {figure(noiseAt(noise, samples))}{#if noise.c > 0}
                  <span class="ml-2 text-soft">floor {figure(noise.c)}</span>{/if}
              </dd>{/if}
            {#if noise && wantedNoise !== null}<dt>For noise {draft.noise}</dt>
              <dd class="figure">{forTarget === null ? 'no number of samples' : `${forTarget} samples`}</dd>{/if}
            {#if seconds !== null}
              <dt>A frame</dt>
              <dd class="figure">{figure(seconds)} s</dd>
              <dt>The range</dt>
              <dd class="figure">{formatSeconds(frames * seconds)} <span class="text-soft">of machine time</span></dd>
              <dt>Machines</dt>
              <dd><NumberField label="Machines" labelHidden class="w-[74px]! py-0!" min="1" max="10000" bind:value={machines} /></dd>
              {#if wall !== null}<dt>Done</dt>
                <dd class="figure">
                  {formatMoment(new Date(now + wall * 1000))}<br /><span class="text-soft">in {formatSeconds(wall)}, if it starts now</span>
                </dd>{/if}
            {/if}
          </dl>
          {#if outside > 1}<p class="mt-2 text-[13px]">
              <b>{outside.toFixed(1)} x</b> beyond the samples that were measured: {outside > 4 ? 'a guess; measure nearer to it.' : 'likely, not certain.'}
            </p>{/if}
          <button type="button" class="button button-small mt-2" onclick={order} disabled={dragged === null}>Order {samples} samples</button>
        {:else}
          <p class="mt-1 text-[13px] text-soft">The laws are fitted as soon as two test frames differ in their samples.</p>
        {/if}
      </div>
      {#if noise || time}<CostChart {tests} {noise} {time} {samples} />{/if}
    </div>
  {/if}
</section>
