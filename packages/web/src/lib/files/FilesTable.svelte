<!-- Every file that stands for an ordered frame, as rows: sorted and narrowed by the server, drawn only where they show. -->
<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Download from '@lucide/svelte/icons/download';
  import { untrack } from 'svelte';
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import Select from '$lib/controls/Select.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { stateOfLetter, stateTitles } from '$lib/states/states';
  import { counted, sayBytes, formatMoment } from '$lib/text/format';
  import { rowPageSchema, type FileColumn, type FileRow } from './file-row';

  let { state: shot }: { state: ShotState } = $props();

  const view = useShotView();
  /** Changes with a new count alone, not with everything that is read anew. */
  const countedAt = $derived(shot.count?.at);
  const PAGE = 200;
  const ROW_HEIGHT = 26;
  const columns: readonly (readonly [FileColumn, string])[] = [
    ['state', 'State'],
    ['path', 'File'],
    ['pass', 'Pass'],
    ['frame', 'Frame'],
    ['size', 'Size'],
    ['kind', 'Kind'],
    ['host', 'Machine'],
    ['samples', 'Samples'],
    ['modified', 'Written'],
  ];

  let sort: FileColumn = $state('path');
  let down = $state(false);
  let text = $state('');
  let pass = $state('');
  let onlyTrouble = $state(false);
  let total = $state(0);
  let failure = $state('');
  let loaded = $state(false);
  let scroller: HTMLDivElement | undefined = $state();
  /** Pages that have come, by number; thrown away when the question changes. */
  let pages: Record<number, readonly FileRow[]> = $state.raw({});
  let asked = new Set<number>();

  const query = $derived(new URLSearchParams({ sort, down: down ? '1' : '0', text, pass, only: onlyTrouble ? 'trouble' : 'all' }).toString());

  const virtualizer = createVirtualizer<HTMLDivElement, HTMLDivElement>({
    count: 0,
    getScrollElement: () => scroller ?? null,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
  });

  $effect(() => {
    const count = total;
    const element = scroller ?? null;
    // The store is written here; reading it as well would go round in a circle.
    untrack(() => $virtualizer.setOptions({ count, getScrollElement: () => element }));
  });

  async function loadPage(number: number, question: string) {
    if (asked.has(number)) return;
    asked.add(number);
    try {
      const response = await fetch(`/shots/${shot.shot.id}/rows?${question}&from=${number * PAGE}&count=${PAGE}`);
      if (!response.ok) throw new Error('The list of files could not be had; the server refused.');
      const page = rowPageSchema.parse(await response.json());
      if (question !== query) return;
      pages = { ...pages, [number]: page.rows };
      total = page.total;
      loaded = true;
      failure = '';
    } catch (thrown) {
      asked.delete(number);
      failure = thrown instanceof Error ? thrown.message : String(thrown);
    }
  }

  $effect(() => {
    const question = query;
    // A new count may have found other files.
    void countedAt;
    pages = {};
    asked = new Set();
    // While somebody types, only what they rest at is asked for.
    const timer = setTimeout(() => void loadPage(0, question), 120);
    return () => clearTimeout(timer);
  });

  $effect(() => {
    for (const { index } of $virtualizer.getVirtualItems()) if (!pages[Math.floor(index / PAGE)]) void loadPage(Math.floor(index / PAGE), query);
  });

  const rowAt = (index: number): FileRow | undefined => pages[Math.floor(index / PAGE)]?.[index % PAGE];

  function sortBy(column: FileColumn) {
    if (sort === column) down = !down;
    else {
      sort = column;
      down = column === 'size';
    }
  }

  function open(row: FileRow) {
    view.choosePass(row.pass);
    view.goTo(row.frame);
  }
</script>

<div class="flex min-h-0 min-w-0 flex-1 flex-col">
  <div class="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4.5 py-1.5 text-[13px]">
    <input class="field max-w-[220px] py-0.5" type="search" placeholder="Part of a name" aria-label="Part of a name" bind:value={text} />
    <Select
      look="filter"
      label="Pass"
      labelHidden
      bind:value={pass}
      options={[['', 'All passes'], ...shot.lanes.map((lane) => [lane.pass, lane.pass] as const)]}
    />
    <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={onlyTrouble} />Only with trouble</label>
    <span class="text-soft" role="status">{loaded ? counted(total, 'file') : ''}</span>
    <a class="button button-small ml-auto" href="/shots/{shot.shot.id}/export/files.csv?{query}" download><Download size={14} aria-hidden="true" />CSV</a>
  </div>
  <div class="min-h-0 flex-1 overflow-auto small:h-[60dvh] small:flex-none" bind:this={scroller} role="table" aria-label="Files" aria-rowcount={total + 1}>
    <div role="row" class="row sticky top-0 z-10 border-b border-line bg-ground text-soft">
      {#each columns as [column, title] (column)}
        <span role="columnheader" aria-sort={sort === column ? (down ? 'descending' : 'ascending') : 'none'}>
          <button type="button" class="flex items-center gap-1 hover:text-ink" onclick={() => sortBy(column)}
            >{title}{#if sort === column}{#if down}<ArrowDown size={12} aria-hidden="true" />{:else}<ArrowUp size={12} aria-hidden="true" />{/if}{/if}</button
          >
        </span>
      {/each}
    </div>
    {#if failure}<p class="p-4 text-bad">{failure}</p>
    {:else if loaded && total === 0}<p class="p-4 text-soft">{text || pass || onlyTrouble ? 'No file is like that.' : 'Nothing has been counted yet.'}</p>{/if}
    <div class="relative" style="height: {$virtualizer.getTotalSize()}px">
      {#each $virtualizer.getVirtualItems() as item (item.key)}
        {@const row = rowAt(item.index)}
        <div
          role="row"
          aria-rowindex={item.index + 2}
          class={['row absolute inset-x-0', row && row.pass === view.pass && row.frame === view.frame ? 'bg-hover' : 'hover:bg-raised']}
          style="height: {item.size}px; transform: translateY({item.start}px)"
        >
          {#if row}
            {@const state = stateOfLetter(row.state)}
            <span role="cell" class="flex items-center gap-1.5"><StateMark {state} size={11} /><span class="text-soft">{stateTitles[state]}</span></span>
            <span role="cell" class="figure truncate"
              ><button type="button" class="block w-full truncate text-left hover:underline" title={row.path} onclick={() => open(row)}
                >{row.path.slice(row.path.lastIndexOf('/') + 1)}</button
              ></span
            >
            <span role="cell" class="truncate">{row.pass}</span>
            <span role="cell" class="figure">{row.frame}</span>
            <span role="cell" class="figure">{sayBytes(row.size)}</span>
            <span role="cell" class="truncate" title={row.kind}>{row.kind}</span>
            <span role="cell" class="truncate">{row.host ?? ''}</span>
            <span role="cell" class="figure">{row.samples ?? ''}</span>
            <span role="cell" class="truncate">{formatMoment(row.modified)}</span>
          {:else}<span role="cell" class="text-soft">…</span>{/if}
        </div>
      {/each}
    </div>
  </div>
</div>

<style>
  .row {
    display: grid;
    grid-template-columns: 70px minmax(196px, 1fr) 66px 48px 58px 132px 66px 54px 114px;
    gap: 0 10px;
    font-size: 12.5px;
    align-items: center;
    min-width: 932px;
    padding: 3px 18px;
  }

  /* A row has one line: what is too long is cut off with a mark and told in full elsewhere. */
  .row > [role='cell'] {
    min-width: 0;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
  }
</style>
