<!-- The order in which frames are rendered, piece by piece; dragged, or moved with the keys. -->
<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import GripVertical from '@lucide/svelte/icons/grip-vertical';
  import { dragHandleZone, dragHandle, type DndEvent } from 'svelte-dnd-action';
  import { nameOfPiece } from './split-draft.svelte';

  let { pieces, onorder }: { pieces: readonly (readonly number[])[]; onorder: (pieces: readonly (readonly number[])[]) => void } = $props();

  interface Item {
    id: number;
    piece: readonly number[];
  }
  // A piece is known by its first frame: no two pieces share one.
  const items = $derived(pieces.map((piece): Item => ({ id: piece[0], piece })));
  let dragged: Item[] | null = $state(null);

  function consider(event: CustomEvent<DndEvent<Item>>) {
    dragged = event.detail.items;
  }

  function finalize(event: CustomEvent<DndEvent<Item>>) {
    dragged = null;
    onorder(event.detail.items.map(({ piece }) => piece));
  }

  function shift(index: number, by: number) {
    const next = [...pieces];
    const [piece] = next.splice(index, 1);
    next.splice(index + by, 0, piece);
    onorder(next);
  }
</script>

<ul
  class="max-h-[168px] overflow-y-auto border border-line"
  aria-label="Order of rendering"
  use:dragHandleZone={{ items: dragged ?? items, flipDurationMs: 0, dropTargetStyle: {} }}
  onconsider={consider}
  onfinalize={finalize}
>
  {#each dragged ?? items as item, index (item.id)}
    <li class="flex items-center gap-2 border-b border-line bg-raised px-2 py-0.5 text-[13px] last:border-b-0">
      <span use:dragHandle class="cursor-grab text-soft" aria-label="Drag {nameOfPiece(item.piece)}"><GripVertical size={15} aria-hidden="true" /></span>
      <span class="figure min-w-0 flex-1 truncate">{nameOfPiece(item.piece)}</span>
      <button
        type="button"
        class="rounded p-1 text-soft hover:bg-hover hover:text-ink disabled:opacity-40"
        disabled={index === 0}
        aria-label="{nameOfPiece(item.piece)} earlier"
        onclick={() => shift(index, -1)}><ArrowUp size={14} aria-hidden="true" /></button
      >
      <button
        type="button"
        class="rounded p-1 text-soft hover:bg-hover hover:text-ink disabled:opacity-40"
        disabled={index === items.length - 1}
        aria-label="{nameOfPiece(item.piece)} later"
        onclick={() => shift(index, 1)}><ArrowDown size={14} aria-hidden="true" /></button
      >
    </li>
  {/each}
</ul>
