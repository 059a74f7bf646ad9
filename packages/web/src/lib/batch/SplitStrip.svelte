<!-- The frames as a strip, cut where one machine ends and the next begins; the borders can be dragged and keyed. -->
<script lang="ts">
  import { formatFrameRange, FrameSet, type Share } from '@mint-tally/core';
  import { counted } from '$lib/text/format';

  let {
    frames,
    shares,
    borders,
    onmove,
  }: { frames: FrameSet; shares: readonly Share[]; borders: readonly number[] | null; onmove: (index: number, position: number) => void } = $props();

  let strip: HTMLDivElement | undefined = $state();
  let dragged: number | null = $state(null);

  const count = $derived(Math.max(1, frames.size));
  // Neighbours differ in lightness, so that the cut is seen without a colour.
  const TONES = ['bg-sound', 'bg-control'];
  const ownerOf = $derived.by(() => {
    const owner = new Map<number, number>();
    shares.forEach((share, i) => share.frames.forEach((frame) => owner.set(frame, i)));
    return owner;
  });
  /** Runs of frames of one machine, for a split that is dealt in turn. */
  const runs = $derived.by(() => {
    const found: { owner: number; from: number; to: number }[] = [];
    [...frames].forEach((frame, i) => {
      const owner = ownerOf.get(frame) ?? -1;
      const last = found.at(-1);
      if (last?.owner === owner) last.to = i + 1;
      else found.push({ owner, from: i, to: i + 1 });
    });
    return found;
  });

  function move(event: PointerEvent) {
    if (dragged === null || !strip) return;
    const box = strip.getBoundingClientRect();
    onmove(dragged, ((event.clientX - box.left) / box.width) * count);
  }

  function key(event: KeyboardEvent, index: number) {
    if (!borders) return;
    const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10 };
    const step = steps[event.key];
    if (step === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    onmove(index, borders[index] + step);
  }
</script>

<svelte:window onpointermove={move} onpointerup={() => (dragged = null)} />

<div class="relative h-[58px] select-none" bind:this={strip}>
  {#each runs as run (run.from)}
    {@const share = shares[run.owner]}
    {@const width = ((run.to - run.from) / count) * 100}
    <div
      class={['absolute top-[22px] h-[26px] overflow-hidden border-r border-ground', run.owner < 0 ? 'bg-bad' : TONES[run.owner % 2]]}
      style="left: {(run.from / count) * 100}%; width: {width}%"
      title="{share?.machine ?? 'nobody'}: {formatFrameRange(FrameSet.of([...frames].slice(run.from, run.to)))}"
    ></div>
    {#if borders && share && share.machine !== '' && width > 7}
      <div class="absolute top-0 truncate text-[13px]" style="left: {(run.from / count) * 100}%; width: {width}%">{share.machine}</div>
    {/if}
  {/each}
  {#if borders}
    {#each borders.slice(1, -1) as border, i (i)}
      <!-- A border is dragged, and moved with the arrow keys, as a slider is. -->
      <button
        type="button"
        role="slider"
        class="absolute top-[17px] z-10 h-[36px] w-[11px] -translate-x-1/2 cursor-col-resize rounded-[3px] border border-ground bg-ink"
        style="left: {(border / count) * 100}%"
        aria-label="Border between {shares[i]?.machine} and {shares[i + 1]?.machine}"
        aria-valuemin={borders[i]}
        aria-valuemax={borders[i + 2]}
        aria-valuenow={border}
        aria-valuetext="{counted(border - borders[i], 'frame')} before it, {counted(borders[i + 2] - border, 'frame')} behind"
        onpointerdown={(event) => {
          event.preventDefault();
          (event.currentTarget as HTMLButtonElement).focus();
          dragged = i + 1;
        }}
        onkeydown={(event) => key(event, i + 1)}
      ></button>
    {/each}
  {/if}
</div>
