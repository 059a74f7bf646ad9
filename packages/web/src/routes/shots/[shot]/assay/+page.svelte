<script lang="ts">
  import { enhance } from '$app/forms';
  import { conventions, sayConvention, sayOfFigures, type Rectangle } from '@mint-tally/core';
  import { askServer } from '$lib/asking/ask-server';
  import FigureChart from '$lib/assay/FigureChart.svelte';
  import { figures, inRegion, isOfRegions, sayFigure, summarise, type FigureKey } from '$lib/assay/figures';
  import HeatPicture from '$lib/assay/HeatPicture.svelte';
  import { regionFramesSchema, type RegionFrames } from '$lib/assay/tiles';
  import Problem from '$lib/controls/Problem.svelte';
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import Docket from '$lib/docket/Docket.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { counted } from '$lib/text/format';

  let { data } = $props();

  const live = useLive();
  const view = useShotView();
  const shot = $derived(data.state);
  const job = $derived(live.active(shot.shot.id, 'assay'));
  const last = $derived(live.job(shot.shot.id, 'assay'));
  const isCounted = $derived(shot.count !== null && !shot.count.stale);
  let figure = $state<FigureKey>('noise');
  const chosen = $derived(figures.find(({ key }) => key === figure)!);
  const motionPass = $derived(shot.brief.passes.find(({ role }) => role === 'motion') ?? null);
  const conventionChoices: [string, string][] = [
    ['-1', 'found in the pictures'],
    ...conventions.map((one, i): [string, string] => [String(i), sayConvention(one)]),
  ];
  /** As the brief says. */
  const saidConvention = $derived(String(conventions.findIndex((one) => motionPass?.vectors && sayConvention(one) === sayConvention(motionPass.vectors))));
  let typed: string | null = $state(null);
  const chosenConvention = $derived(typed ?? saidConvention);
  const ordered = $derived(shot.brief.sampling?.noise ?? null);
  const target = $derived(figure === 'noise' ? ordered : null);
  let against = $state<FigureKey | ''>('');

  /** A part of the picture that all figures are of; null for the whole. */
  let region = $state.raw<Rectangle | null>(null);
  let regional = $state.raw<RegionFrames | null>(null);
  let refused = $state('');
  $effect(() => {
    void data.figures;
    regional = null;
    if (region === null) return;
    const [left, top, width, height] = region.map(String) as [string, string, string, string];
    const query = new URLSearchParams({ left, top, width, height });
    let isWanted = true;
    void askServer(`/shots/${shot.shot.id}/assay/region?${query.toString()}`, 'GET').then((answer) => {
      if (!isWanted) return;
      refused = answer.ok ? '' : answer.refused;
      regional = answer.ok ? regionFramesSchema.parse(answer.value) : null;
    });
    return () => (isWanted = false);
  });
  const frames = $derived(data.figures ? (region && regional ? inRegion(data.figures.frames, regional) : data.figures.frames) : []);
  const summaries = $derived(summarise(frames, figure));
  /** The pass whose picture is shown: the one that was chosen, where it was measured, else the first that was. */
  const roles = $derived(new Map(shot.brief.passes.map(({ name, role }) => [name, role])));
  const pictured = $derived(summaries.some(({ pass }) => pass === view.pass) ? view.pass : (summaries[0]?.pass ?? ''));
  const hasLights = $derived(roles.get(pictured) === 'beauty' && [...roles.values()].includes('light'));
</script>

<svelte:head><title>{shot.shot.name}: assay · Mint Tally</title></svelte:head>

<div class="flex min-h-0 flex-1 small:flex-col">
  <main class="flex min-w-0 flex-1 flex-col overflow-y-auto">
    <div class="flex min-h-[52px] shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-b border-line px-4.5 py-1.5">
      {#if data.figures}
        <Segments
          label="Which figure"
          value={figure}
          options={figures.map(({ key, title, says }): [FigureKey, string, string] => [key, title, says])}
          onchoose={(one) => (figure = one)}
        />
      {/if}
      <span class="text-[13px] text-soft" role="status">
        {#if !data.figures}Nothing has been measured yet.
        {:else if shot.assay === null}These figures are of other frames, or of another brief: measure again.
        {:else}{counted(data.figures.frames.length, 'frame')} <span class="sr-only">measured</span>{/if}
        {#if region && !isOfRegions(figure)}· of the whole picture: not known of a region
        {:else if region && regional}· of {region[2]} x {region[3]} pixels at {region[0]}, {region[1]}
        {:else if region && !refused}· reading the region …{/if}
      </span>
      <div class="ml-auto flex items-center gap-2">
        <a class="button button-small" href="/shots/{shot.shot.id}/assay/denoise">Denoise</a>
        {#if shot.assay !== null}<a class="button button-small" href="/shots/{shot.shot.id}/assay/report">Report</a>{/if}
        {#if job}<div class="w-[280px]"><JobBar {job} wide waits={live.waits(shot.shot.id, 'assay')} /></div>
        {:else}
          <form method="POST" action="?/measure" use:enhance>
            <button type="submit" class={['button button-small', shot.assay === null && 'button-main']}
              >{shot.assay === null ? 'Measure' : 'Measure again'}</button
            >
          </form>
        {/if}
      </div>
    </div>
    {#if last?.state === 'failed' && last.error}<Problem message="The last measurement failed: {last.error.message}" remedy={last.error.remedy} />{/if}
    {#if data.figures}
      {#if refused}<Problem message={refused} />{/if}
      <div class="flex min-h-[204px] flex-1 flex-col px-2 pt-2">
        <FigureChart
          {frames}
          {figure}
          against={against === '' ? null : against}
          title={chosen.title}
          {target}
          playhead={view.frame}
          ongo={(frame) => view.goTo(frame)}
        />
      </div>
      <div class="flex shrink-0 flex-wrap gap-x-5 gap-y-3 px-4.5 pt-1 pb-3">
        <div class="w-[340px] max-w-full shrink-0">
          <HeatPicture
            shotId={shot.shot.id}
            countedAt={shot.count?.at ?? ''}
            measuredAt={shot.assay?.at ?? ''}
            pass={pictured}
            frame={view.frame}
            target={ordered}
            {hasLights}
            marks={figure === 'fireflies' ? 'fireflies' : 'noise'}
            {region}
            onregion={(one) => (region = one)}
          />
        </div>
        <div class="min-w-[320px] flex-1 text-[13px] 2xl:grid 2xl:grid-cols-[minmax(0,1fr)_340px] 2xl:items-start 2xl:gap-x-8">
          <table class="w-full max-w-[820px] 2xl:max-w-none" aria-label="{chosen.title} of each pass">
            <thead>
              <tr class="text-left text-soft [&>th]:py-1 [&>th]:pr-4 [&>th]:font-normal"
                ><th>Pass</th><th class="text-right">Frames</th><th class="text-right">Usually</th><th class="text-right">At most</th><th>In frame</th><th
                  >Noise is measured</th
                ></tr
              >
            </thead>
            <tbody>
              {#each summaries as { pass, frames, usual, worst, by } (pass)}
                <tr class="border-t border-line [&>td]:py-1 [&>td]:pr-4">
                  <td class="font-bold">{pass}</td>
                  <td class="figure text-right">{frames}</td>
                  <td class="figure text-right">{sayFigure(usual)}</td>
                  <td class="figure text-right">{sayFigure(worst?.[figure] ?? null)}</td>
                  <td>
                    {#if worst}<button
                        type="button"
                        class="figure underline decoration-control underline-offset-3"
                        onclick={() => {
                          view.choosePass(pass);
                          view.goTo(worst.frame);
                        }}>{worst.frame}</button
                      >{:else}<span class="text-soft">not known</span>{/if}
                  </td>
                  <td class="text-soft">{by}</td>
                </tr>
              {/each}
            </tbody>
          </table>
          <div>
            <p class="mt-2 text-soft">
              {chosen.says}.
              {sayOfFigures(data.figures)}
            </p>
            {#if motionPass}
              <form
                method="POST"
                action="?/vectors"
                use:enhance={() =>
                  async ({ update }) => {
                    await update({ reset: false });
                    typed = null;
                  }}
                class="mt-2 flex max-w-[560px] items-end gap-2"
              >
                <div class="min-w-0 flex-1">
                  <Select
                    label="What the vectors of {motionPass.name} mean"
                    name="convention"
                    bind:value={() => chosenConvention, (one) => (typed = one)}
                    options={conventionChoices}
                  />
                </div>
                <button type="submit" class="button" disabled={chosenConvention === saidConvention}>Say so in the brief</button>
              </form>
            {/if}
            <div class="mt-2 w-[220px]">
              <Select
                label="Drawn against"
                bind:value={() => against, (one) => (against = one as FigureKey | '')}
                options={[['', 'the frames'], ...figures.filter(({ key }) => key !== figure).map(({ key, title }): [string, string] => [key, title])]}
              />
            </div>
          </div>
        </div>
      </div>
    {:else}
      <div class="m-auto max-w-[480px] p-6 text-center">
        <p class="text-[16px] font-bold">How noisy is it, and do the passes agree?</p>
        <p class="mt-2 text-soft">
          Measuring reads the frames of the beauty and the lights with the passes beside them: noise in every frame and in time, light that flickers, fireflies,
          and passes that show another frame. It takes some seconds a frame.
        </p>
        {#if !isCounted}<p class="mt-2">The shot is counted along the way: each new file is read once for both.</p>{/if}
      </div>
    {/if}
  </main>
  <Docket state={shot} />
</div>
