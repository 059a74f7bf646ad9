<!-- What runs for the shot: progress, rate, time left, and a way to stop it. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { sayBytes, formatCount, formatSeconds } from '$lib/text/format';
  import type { LiveJob } from './live-state';

  let {
    job,
    wide = false,
    waits = false,
    canStop = true,
  }: {
    job: LiveJob;
    wide?: boolean;
    waits?: boolean;
    /** Whether it is stopped here, and not by something beside it. */
    canStop?: boolean;
  } = $props();

  const TITLES: Record<string, string> = {
    counting: 'Counting',
    packing: 'Packing',
    encoding: 'Making the movie',
    drawing: 'Drawing the sheet',
    verifying: 'Verifying',
    rendering: 'Rendering test frames',
    measuring: 'Measuring',
    'measuring frames': 'Measuring frames',
    'left to the assay': 'Counted while it is measured',
    denoising: 'Denoising',
    mending: 'Mending',
    'taking back': 'Taking back',
    batch: 'Rendering',
    comparing: 'Comparing',
    merging: 'Merging',
    undoing: 'Taking back',
  };
  const progress = $derived(job.progress);
  /** How many of how many; null where nothing is counted out. */
  const counted = $derived(progress && progress.total > 0 ? progress : null);
  const share = $derived(counted ? counted.done / counted.total : 0);
  const title = $derived(
    job.cancelRequested
      ? 'Stopping …'
      : job.state === 'queued'
        ? 'Waiting for the engine'
        : progress
          ? (TITLES[progress.phase] ?? progress.phase)
          : job.kind === 'count'
            ? 'Looking what changed'
            : 'Preparing',
  );
  // Time goes by bytes, which is what takes it; frames differ in size.
  const left = $derived.by(() => {
    if (!progress || progress.bytesDone === 0 || progress.phaseSeconds < 0.5) return '';
    return `${formatSeconds((progress.phaseSeconds * (progress.bytesTotal - progress.bytesDone)) / progress.bytesDone)} left`;
  });
  const countsBytes = $derived(['counting', 'packing', 'comparing', 'merging', 'undoing'].includes(progress?.phase ?? ''));
  const rate = $derived(progress && countsBytes && progress.phaseSeconds >= 0.5 ? `${sayBytes(progress.bytesDone / progress.phaseSeconds)}/s` : '');

  /** The job that somebody asked to stop here; the next one that the bar shows is another. */
  let stopped = $state<number | null>(null);
  async function stop() {
    stopped = job.id;
    const answer = await fetch(`/jobs/${job.id}/cancel`, { method: 'POST' }).catch(() => null);
    if (!answer?.ok) stopped = null;
  }
</script>

<div class={['flex items-center gap-2', wide ? 'w-full' : 'w-[206px]']} role="group" aria-label={title}>
  <div class="min-w-0 flex-1">
    <div class="flex justify-between gap-2 text-[13px]">
      <span class="truncate"
        >{title}{#if wide && counted}, <span class="figure">{formatCount(counted.done)} of {formatCount(counted.total)}</span>{/if}{#if waits}, another waits{/if}</span
      >
      <span class="figure whitespace-nowrap text-soft"
        >{wide && rate ? `${rate}, ` : ''}{left || (counted && !wide ? `${formatCount(counted.done)}/${formatCount(counted.total)}` : '')}</span
      >
    </div>
    <div class="mt-1 h-1 bg-line" role="progressbar" aria-label={title} aria-valuemin="0" aria-valuemax="100" aria-valuenow={Math.round(share * 100)}>
      <div class="h-full bg-mint" style="width: {share * 100}%"></div>
    </div>
  </div>
  {#if canStop}<button
      type="button"
      class="button button-small px-1.5"
      onclick={stop}
      disabled={stopped === job.id || job.cancelRequested}
      aria-label="Stop: {title}"
      title="Stop"><X size={14} aria-hidden="true" /></button
    >{/if}
</div>
