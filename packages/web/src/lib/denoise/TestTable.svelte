<!-- What a test came to: a row each strength, and what can be done with it. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { strengths, timesWithLights } from '@mint-tally/core';
  import { sayFigure } from '$lib/assay/figures';
  import { counted, formatMoment, formatSeconds } from '$lib/text/format';
  import { sayStrength, type TestView } from './denoise-view';

  let {
    shotId,
    test,
    goesOn,
    wholeRange,
    wholeCount,
    lights,
    targetOf,
    blocked,
  }: {
    shotId: number;
    test: TestView;
    /** Whether somebody works on it. */
    goesOn: boolean;
    /** All ordered frames of the pass, in range notation; and how many. */
    wholeRange: string;
    wholeCount: number;
    /** Lights that can go along with the pass. */
    lights: readonly string[];
    /** The pass that the whole range becomes at a strength. */
    targetOf: (strength: number, withLights: boolean) => string;
    /** Why a range cannot be begun; empty when it can. */
    blocked: string;
  } = $props();

  let areWanted = $state(false);
  const withLights = $derived(areWanted && lights.length > 0);
  const before = $derived(test.strengths.find(({ figures }) => figures !== null)?.figures ?? null);
  const share = (after: number | null, from: number | null) => (after === null || from === null || from === 0 ? '' : `${Math.round((100 * after) / from)} %`);
  const watch = (strength: number, more = '') => `/shots/${shotId}/view?test=${test.id}&strength=${strength}${more}`;
  const lacking = $derived(before?.lacking ?? []);
</script>

<table class="w-full max-w-[980px] text-[13px]" aria-label="Test of {counted(test.frameCount, 'frame')} of {test.pass}">
  <thead>
    <tr class="text-left text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
      ><th>Strength</th><th class="text-right">Noise left</th><th class="text-right">In time left</th><th class="text-right">Detail kept</th><th
        class="text-right">A frame takes</th
      ><th class="text-right">All {wholeCount}</th><th>Look at it</th><th><span class="sr-only">Take it</span></th></tr
    >
  </thead>
  <tbody>
    <tr class="border-t border-line text-soft [&>td]:py-1 [&>td]:pr-3">
      <td class="whitespace-nowrap">as rendered</td>
      <td class="figure text-right">{sayFigure(before?.noiseBefore ?? null)}</td>
      <td class="figure text-right">{sayFigure(before?.temporalBefore ?? null)}</td>
      <td></td><td></td><td></td><td></td><td></td>
    </tr>
    {#each test.strengths as { strength, figures, secondsForRange } (strength)}
      {@const name = sayStrength(strength, strengths)}
      <tr class="border-t border-line [&>td]:py-1 [&>td]:pr-3">
        <th scope="row" class="py-1 pr-3 text-left font-bold">{name}</th>
        {#if figures === null}
          <td colspan="7" class="text-soft">{goesOn ? 'has still to be tried' : 'was not tried'}</td>
        {:else}
          <td class="figure text-right"
            >{sayFigure(figures.noise)} <span class="inline-block w-[5ch] text-soft">{share(figures.noise, figures.noiseBefore)}</span></td
          >
          <td class="figure text-right"
            >{sayFigure(figures.temporalNoise)} <span class="inline-block w-[5ch] text-soft">{share(figures.temporalNoise, figures.temporalBefore)}</span></td
          >
          <td
            class="figure text-right"
            title={figures.isReferred ? 'Against a test render with more samples' : 'At the edges of surfaces and texture, against the original'}
            >{figures.detail === null ? 'not known' : `${Math.round(100 * figures.detail)} %`}</td
          >
          <td class="figure text-right">{figures.filtered === 0 ? '–' : `${(figures.secondsEach / figures.threads).toPrecision(2)} s`}</td>
          <td class="figure text-right whitespace-nowrap"
            >{secondsForRange === null ? '' : formatSeconds(secondsForRange * timesWithLights(withLights ? lights.length : 0))}</td
          >
          <td class="whitespace-nowrap"
            ><a class="button button-small" href={watch(strength)} aria-label="Watch {name} beside what was rendered">Watch</a>
            {#if test.frames > 1}<a
                class="button button-small"
                href={watch(strength, '&ghosts=1')}
                aria-label="Ghosts of {name}: where neighbours were kept out"
                title="Where neighbouring frames were kept out, since they show something else: white is all of them">Ghosts</a
              >{/if}</td
          >
          <td class="text-right">
            <form method="POST" action="?/begin" use:enhance>
              <input type="hidden" name="purpose" value="range" />
              <input type="hidden" name="pass" value={test.pass} />
              <input type="hidden" name="frames" value={test.frames} />
              <input type="hidden" name="strengths" value={strength} />
              <input type="hidden" name="range" value={wholeRange} />
              <input type="hidden" name="withLights" value={withLights ? 'yes' : 'no'} />
              <button
                type="submit"
                class="button button-small"
                disabled={blocked !== ''}
                title={blocked === ''
                  ? `All ${counted(wholeCount, 'frame')}, as the pass ${targetOf(strength, withLights)}${withLights ? ', and its lights' : ''}`
                  : blocked}>Take {name}</button
              >
            </form>
          </td>
        {/if}
      </tr>
    {/each}
  </tbody>
</table>
{#if lights.length > 0}
  <label class="mt-1 flex items-baseline gap-1.5 text-[13px]"
    ><input type="checkbox" class="accent-(--mint) translate-y-0.5" bind:checked={areWanted} /><span
      >With its lights: {lights.join(', ')}. They are filtered just as {test.pass} is, each to a pass of its own, and still sum to it.</span
    ></label
  >
{/if}
<p class="mt-1 text-[13px] text-soft">
  {test.pass}
  <span class="figure">{test.range}</span>, {test.frames === 1 ? 'each frame by itself' : `over ${test.frames} frames`}{test.region
    ? `, ${test.region[2]} x ${test.region[3]} pixels at ${test.region[0]}, ${test.region[1]}`
    : ''}, tried {formatMoment(test.createdAt)}.
  {#if before?.isReferred}Its detail is held against a test render with more samples.{/if}
  {#if lacking.length > 0}Would help, and is not there: {lacking.join(', ')}.{/if}
  {#if before && before.missing !== ''}Without a file: <span class="figure">{before.missing}</span>.{/if}
  {#if before && before.unreadable !== ''}Not readable: <span class="figure">{before.unreadable}</span>.{/if}
</p>
