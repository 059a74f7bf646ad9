<!-- Frames side by side: every n-th, those of the findings, one frame in all passes, or what lies around the faults. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { tick, untrack } from 'svelte';
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { stateTitles } from '$lib/states/states';
  import { counted } from '$lib/text/format';
  import { sheetCells, type SheetCell, type SheetKind } from './sheet-cells';

  let { state: shot }: { state: ShotState } = $props();

  const view = useShotView();
  const choice = $derived(view.sheet);
  // One frame in all passes follows the playhead; the others stay where they are while it moves.
  const playhead = $derived(choice.kind === 'passes' ? view.column : 0);
  const cells = $derived(sheetCells(choice, view.model, shot.findings, { pass: view.pass, column: playhead }));

  const GAP = 10;
  const CAPTION = 42;
  let scroller: HTMLDivElement | undefined = $state();
  let width = $state(0);
  const across = $derived(Math.max(1, Math.floor((width - GAP) / (choice.size + GAP))));
  const rows = $derived(Math.ceil(cells.length / across));
  const shape = $derived(shot.brief.resolution ? (shot.brief.resolution[1] / shot.brief.resolution[0]) * (1 / (shot.brief.pixelAspect ?? 1)) : 9 / 16);
  const pictureHeight = $derived(Math.round(choice.size * Math.min(2, Math.max(0.2, shape))));
  const rowHeight = $derived(pictureHeight + CAPTION + GAP);

  const virtualizer = createVirtualizer<HTMLDivElement, HTMLDivElement>({
    count: 0,
    getScrollElement: () => scroller ?? null,
    estimateSize: () => 1,
    overscan: 2,
  });
  $effect(() => {
    const [count, element, size] = [rows, scroller ?? null, rowHeight];
    // The store is written here; reading it as well would go round in a circle.
    untrack(() => {
      $virtualizer.setOptions({ count, getScrollElement: () => element, estimateSize: () => size });
      $virtualizer.measure();
    });
  });

  const current = $derived(cells.findIndex((cell) => cell.pass === view.pass && cell.frame === view.frame));
  // Back from the viewer, and wherever the keys lead, the frame under the playhead is in sight.
  $effect(() => {
    const row = Math.floor(current / across);
    if (current < 0 || !scroller || width === 0) return;
    void tick().then(() => untrack(() => $virtualizer.scrollToIndex(row, { align: 'auto' })));
  });

  const kinds: readonly (readonly [SheetKind, string, string])[] = [
    ['every', 'frames', 'The frames of the pass'],
    ['findings', 'findings', 'The frames of all findings, pass by pass'],
    ['passes', 'passes', 'The frame under the playhead in all passes'],
    ['around', 'around faults', 'The frames before and after each fault of the pass'],
  ];
  const STEPS = [1, 2, 5, 10, 25, 100];

  const still = (cell: SheetCell) =>
    `/shots/${shot.shot.id}/still?${new URLSearchParams({ pass: cell.pass, frame: String(cell.frame), counted: shot.count?.at ?? '' }).toString()}`;
  /** While the sheet moves, a picture is asked for once it has been there for so long, in milliseconds: those that are scrolled past would keep the others waiting. */
  const STAYS = 300;
  const ask = (address: string) => (image: HTMLImageElement) => {
    const timer = setTimeout(() => (image.src = address), untrack(() => $virtualizer.isScrolling) ? STAYS : 0);
    return () => {
      clearTimeout(timer);
      image.removeAttribute('src');
    };
  };
  const hasPicture = (cell: SheetCell) => cell.state !== 'missing' && cell.state !== 'later' && cell.state !== 'broken';

  function open(cell: SheetCell) {
    view.choosePass(cell.pass);
    view.goTo(cell.frame);
  }

  /** Goes a row up or down, as the keys say. */
  function moveRow(by: 1 | -1) {
    const next = cells[Math.min(cells.length - 1, Math.max(0, (current < 0 ? 0 : current) + by * across))];
    if (next) open(next);
  }

  $effect(() => {
    view.screenKeys = {
      press(event) {
        if (event.ctrlKey || event.metaKey || event.altKey) return false;
        if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
          moveRow(event.key === 'ArrowDown' ? 1 : -1);
          return true;
        }
        if (event.key.toLowerCase() === 'u' || (event.key === 'Enter' && !(event.target instanceof HTMLElement && event.target.closest('a, button')))) {
          void goto(`/shots/${shot.shot.id}/view`);
          return true;
        }
        return false;
      },
      list: [
        ['\u2191 \u2193', 'a row of the sheet up or down'],
        ['Enter, U', 'the frame in the viewer'],
      ],
    };
    return () => (view.screenKeys = null);
  });
</script>

<div
  class="flex min-h-[42px] shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-bar px-4 py-1 text-[13px]"
  role="group"
  aria-label="Sheet"
>
  <a class="button button-small" href="/shots/{shot.shot.id}/view" title="The frame under the playhead in the viewer (U)">Viewer</a>
  <Segments label="Which frames" value={choice.kind} options={kinds} onchoose={(kind) => (view.sheet = { ...choice, kind })} />
  {#if choice.kind === 'every' || choice.kind === 'around'}
    <Select
      look="quiet"
      labelHidden
      label="Pass"
      bind:value={() => view.pass, (one) => view.choosePass(one)}
      options={view.model.lanes.map(({ name }): [string, string] => [name, name])}
    />
  {/if}
  {#if choice.kind === 'every'}
    <Select
      look="quiet"
      labelHidden
      label="How many"
      bind:value={() => String(choice.step), (step) => (view.sheet = { ...choice, step: Number(step) })}
      options={STEPS.map((step): [string, string] => [String(step), step === 1 ? 'every frame' : `one in ${step}`])}
    />
  {/if}
  <span class="text-soft" role="status">{counted(cells.length, 'frame')}</span>
  <span class="flex-1"></span>
  <span class="text-soft" title="Pictures of the sheet are kept small and packed with loss: for finding, not for judging"
    >small pictures, not the file’s own pixels</span
  >
  <label class="flex items-center gap-2"
    ><span class="text-soft">Size</span><input
      type="range"
      class="w-[110px] accent-(--mint)"
      min="100"
      max="640"
      step="20"
      bind:value={() => choice.size, (size) => (view.sheet = { ...choice, size })}
    /></label
  >
</div>
<div
  class="min-h-0 flex-1 overflow-y-auto small:h-[60dvh] small:flex-none"
  bind:this={scroller}
  bind:clientWidth={width}
  data-scrolls
  role="group"
  aria-label="Frames"
>
  {#if cells.length === 0}
    <p class="p-4 text-soft">
      {shot.count === null
        ? 'Nothing has been counted yet.'
        : choice.kind === 'findings' || choice.kind === 'around'
          ? 'No frame has a fault.'
          : 'No frame is ordered.'}
    </p>
  {/if}
  <div class="relative" style="height: {$virtualizer.getTotalSize()}px">
    {#each $virtualizer.getVirtualItems() as row (row.index)}
      <div class="absolute left-0 flex" style="top: {row.start + GAP}px; left: {GAP}px; gap: {GAP}px">
        {#each cells.slice(row.index * across, (row.index + 1) * across) as cell, i (`${cell.pass} ${cell.frame}`)}
          {@const isCurrent = row.index * across + i === current}
          <a
            href="/shots/{shot.shot.id}/view"
            class={['block rounded-sm text-[12.5px] outline-offset-2 hover:bg-hover', isCurrent && 'outline-2 outline-mint']}
            style="width: {choice.size}px; height: {pictureHeight + CAPTION}px"
            aria-current={isCurrent ? 'true' : undefined}
            aria-label="{cell.pass} {cell.frame}, {cell.state ? stateTitles[cell.state] : 'not ordered'}{cell.finding ? `, ${cell.finding}` : ''}"
            onclick={() => open(cell)}
          >
            <span class="flex items-center justify-center bg-[#1b1b1b] text-[#c8c8c8]" style="height: {pictureHeight}px">
              {#if hasPicture(cell)}<img alt="" class="h-full w-full object-contain" decoding="async" {@attach ask(still(cell))} />
              {:else}<span class="flex flex-col items-center gap-1"><StateMark state={cell.state} size={26} />{cell.state ? stateTitles[cell.state] : ''}</span
                >{/if}
            </span>
            <span class="flex items-center gap-1.5 px-1 pt-0.5"
              ><StateMark state={cell.state} size={12} /><b class="figure">{cell.frame}</b><span class="truncate text-soft">{cell.pass}</span></span
            >
            <span class="block truncate px-1 text-soft" title={cell.finding}>{cell.finding}</span>
          </a>
        {/each}
      </div>
    {/each}
  </div>
</div>
