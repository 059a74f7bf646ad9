<script lang="ts">
  import { enhance } from '$app/forms';
  import { formatFrameRange, frameCounts, FrameSet, isForDenoising, workOutOrder, type FrameCount, type Rectangle } from '@mint-tally/core';
  import HeatPicture from '$lib/assay/HeatPicture.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import RangeSection from '$lib/denoise/RangeSection.svelte';
  import TestForm from '$lib/denoise/TestForm.svelte';
  import TestTable from '$lib/denoise/TestTable.svelte';
  import { wayOf } from '$lib/denoise/denoise-view';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { renewPage, useLive } from '$lib/jobs/live.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { counted, formatMoment } from '$lib/text/format';

  let { data, form } = $props();

  const live = useLive();
  const view = useShotView();
  const shot = $derived(data.state);
  const denoising = $derived(data.denoising);
  let chosenPass: string | null = $state(null);
  const pass = $derived(chosenPass !== null && denoising.passes.includes(chosenPass) ? chosenPass : (denoising.passes[0] ?? ''));
  let frames: FrameCount = $state(5);
  let region: Rectangle | null = $state.raw(null);
  /** A test that is looked at again, until a newer one is there. */
  let shownTest: { id: number; newest: number } | null = $state.raw(null);

  const testing = $derived(live.active(shot.shot.id, 'denoise', 'test'));
  const going = $derived(live.active(shot.shot.id, 'denoise', 'range'));
  /** What ended last, and failed, and is not gone on with. */
  const failed = $derived(live.state.jobs.findLast(({ shotId, kind, state }) => shotId === shot.shot.id && kind === 'denoise' && state === 'failed') ?? null);
  const isFailure = $derived(failed !== null && (failed.purpose === 'test' ? testing : going) === null);
  const measuring = $derived(live.active(shot.shot.id, 'assay'));
  const engines = $derived(live.state.jobs.filter((one) => one.shotId === shot.shot.id && one.purpose === 'range' && one.state === 'running').length);
  const isCounted = $derived(shot.count !== null && !shot.count.stale);
  const ordered = $derived(workOutOrder(shot.brief).passes.find((one) => one.pass.name === pass) ?? null);
  const whole = $derived(ordered?.frames ?? FrameSet.empty);
  /** The one that goes on, where one does: of a shot no two do. */
  const newest = $derived(denoising.tests[0] ?? null);
  const ownTests = $derived(denoising.tests.filter((test) => test.pass === pass));
  const test = $derived(ownTests.find(({ id }) => id === shownTest?.id && shownTest.newest === newest?.id) ?? ownTests[0] ?? null);
  /** Frames of a stretch that is tried where none is selected. */
  const USUAL = 8;
  const proposed = $derived.by(() => {
    if (view.selectionSize > 1) return view.selectionRange;
    const all = [...whole];
    const at = Math.max(
      0,
      all.findIndex((frame) => frame >= view.frame),
    );
    const first = Math.max(0, Math.min(all.length - USUAL, at - USUAL / 2));
    return formatFrameRange(FrameSet.of(all.slice(first, first + USUAL)));
  });
  const lights = $derived(denoising.lights[test?.pass ?? ''] ?? []);
  const targetOf = (strength: number, withLights: boolean) => {
    const inside = withLights ? lights.filter(({ isInside }) => isInside).map((light) => light.pass) : [];
    const own = denoising.targets.filter((one) => one.pass === test?.pass);
    return (own.find(({ way }) => test && way === wayOf(strength, test.frames, inside)) ?? own.find(({ way }) => way === null))?.name ?? '';
  };
  const blocked = $derived(
    going !== null ? 'A range is being denoised: let it end, pause it or stop it.' : denoising.isWritable ? '' : `${shot.shot.root} may only be read.`,
  );
  const isOrdered = $derived(denoising.range !== null && shot.brief.passes.some(({ name }) => name === denoising.range!.target));

  // A strength that has been tried shows while the others are still tried.
  const done = $derived(testing?.progress?.phase === 'denoising' ? Math.floor(testing.progress.done / (newest?.frameCount ?? 1)) : 0);
  $effect(() => {
    if (done > 0) void renewPage();
  });
</script>

<svelte:head><title>{shot.shot.name}: denoise · Mint Tally</title></svelte:head>

<main class="flex min-h-0 min-w-0 flex-1 flex-col overflow-y-auto">
  <div class="flex min-h-[52px] shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-b border-line px-4.5 py-1.5">
    <a class="text-soft underline decoration-control underline-offset-3 hover:text-ink" href="/shots/{shot.shot.id}/assay">Assay</a>
    <h2 class="font-bold">Denoise</h2>
    {#if denoising.passes.length > 0}
      <Select
        label="Pass"
        labelHidden
        class="!w-auto"
        bind:value={() => pass, (one) => (chosenPass = one)}
        options={denoising.passes.map((name): [string, string] => [name, name])}
      />
      <Segments
        label="Frames that take part in one"
        value={String(frames)}
        options={frameCounts.map((count): [string, string, string] => [
          String(count),
          count === 1 ? 'by itself' : `${count} frames`,
          count === 1 ? 'Each frame by itself' : `Steadied over ${count} frames, along the motion vectors`,
        ])}
        onchoose={(one) => (frames = frameCounts.find((count) => String(count) === one)!)}
      />
      <span class="text-[13px] text-soft">
        {#if shot.assay}It goes by the noise that was measured {formatMoment(shot.assay.at)}.
        {:else}Its noise is measured along the way, which takes as long again.{/if}
      </span>
      <div class="ml-auto flex items-center gap-2">
        {#if measuring}<div class="w-[260px]"><JobBar job={measuring} wide /></div>
        {:else if !shot.assay}<form method="POST" action="?/measure" use:enhance>
            <button type="submit" class="button" disabled={!isCounted}>Measure first</button>
          </form>{/if}
      </div>
    {/if}
  </div>
  {#if form && 'refused' in form && form.refused}<Problem message={form.refused} remedy={form.remedy} />{/if}
  {#if isFailure && failed?.error}<Problem message="The {failed.purpose} could not go on: {failed.error.message}" remedy={failed.error.remedy} />{/if}
  {#if denoising.passes.length === 0}
    <div class="m-auto max-w-[480px] p-6 text-center">
      <p class="text-[16px] font-bold">There is nothing to denoise.</p>
      <p class="mt-2 text-soft">
        {shot.brief.passes.some((one) => !isForDenoising(one) && one.denoisedFrom)
          ? 'What the brief orders has been denoised already.'
          : 'Only passes that hold light are filtered: give one the role beauty or light in the brief.'}
      </p>
    </div>
  {:else}
    <div class="flex flex-wrap gap-x-5 gap-y-4 px-4.5 py-3">
      <div class="w-[340px] max-w-full shrink-0">
        <HeatPicture
          shotId={shot.shot.id}
          countedAt={shot.count?.at ?? ''}
          measuredAt={shot.assay?.at ?? ''}
          {pass}
          frame={view.frame}
          target={shot.brief.sampling?.noise ?? null}
          hasLights={false}
          resolution={ordered?.resolution ?? null}
          {region}
          onregion={(one) => (region = one)}
        />
      </div>
      <div class="min-w-[min(440px,100%)] flex-1">
        <section aria-labelledby="first-a-test">
          <h3 id="first-a-test" class="mb-2 font-bold">First a test</h3>
          <TestForm
            {pass}
            {frames}
            ordered={whole}
            {proposed}
            most={data.denoising.mostTestFrames}
            {region}
            busy={testing !== null}
            hasRange={going !== null}
          />
          {#if testing && newest}
            <div class="mt-3 flex items-center gap-3">
              <div class="w-[340px]"><JobBar job={testing} wide canStop={false} /></div>
              <form method="POST" action="?/stop" use:enhance>
                <input type="hidden" name="run" value={newest.id} />
                <button type="submit" class="button button-small">Stop the test</button>
              </form>
            </div>
          {/if}
          {#if test}
            <div class="mt-3 overflow-x-auto">
              <TestTable
                shotId={shot.shot.id}
                {test}
                goesOn={testing !== null && test === newest}
                wholeRange={formatFrameRange(whole)}
                wholeCount={whole.size}
                lights={lights.map((light) => light.pass)}
                {targetOf}
                {blocked}
              />
            </div>
            {#if ownTests.length > 1}
              <p class="mt-1 flex flex-wrap gap-x-3 text-[13px]">
                <span class="text-soft">Tests:</span>
                {#each ownTests as one (one.id)}
                  <button
                    type="button"
                    class={one === test ? 'font-bold' : 'underline decoration-control underline-offset-3'}
                    aria-pressed={one === test}
                    onclick={() => (shownTest = { id: one.id, newest: newest!.id })}>{formatMoment(one.createdAt)}, {counted(one.frameCount, 'frame')}</button
                  >
                {/each}
              </p>
            {/if}
          {:else}
            <p class="mt-3 max-w-[640px] text-soft">
              A second of the shot at two or three strengths shows more than a still: noise that stands still is seen, noise that crawls is seen more. Try a
              stretch with what matters in it, watch it beside what was rendered, then take a strength for the whole range.
            </p>
          {/if}
        </section>
        <section class="mt-5 border-t border-line pt-3" aria-labelledby="then-the-range">
          <h3 id="then-the-range" class="mb-2 font-bold">Then the range</h3>
          {#if denoising.range}
            <RangeSection
              shotId={shot.shot.id}
              range={denoising.range}
              job={going}
              waitsFor={testing ? 'the test' : measuring ? 'the measuring' : 'an engine'}
              {engines}
              {isOrdered}
              ontally={() => view.choosePass(denoising.range!.target)}
            />
          {:else}
            <p class="text-[13px] text-soft">
              Nothing has been denoised yet. The result goes beside the original, into a folder of its own, and is ordered in the brief as a pass: then it is
              counted, measured, watched and packed like any other.
            </p>
          {/if}
          {#if !denoising.isWritable}<p class="mt-1 text-[13px]">
              {shot.shot.root} may only be read: a test can be made, the range only by <code class="figure">./mint denoise</code>.
            </p>{/if}
        </section>
      </div>
    </div>
  {/if}
</main>
