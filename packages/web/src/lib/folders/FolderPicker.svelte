<!-- Walks the folders below the allowed roots; the server shows nothing else. -->
<script lang="ts">
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import CornerLeftUp from '@lucide/svelte/icons/corner-left-up';
  import Folder from '@lucide/svelte/icons/folder';
  import { onMount, tick } from 'svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import { counted } from '$lib/text/format';
  import { folderViewSchema, type FolderView } from './folder-view';

  let { roots, onchoose }: { roots: readonly { name: string; path: string }[]; onchoose: (root: string, path: string) => void } = $props();

  let view = $state<FolderView | null>(null);
  let failure = $state<{ message: string; remedy: string } | null>(null);
  /** Counts up with each folder that is asked for: an answer that comes late changes nothing. */
  let asked = 0;
  let isOpening = $state(false);
  let list: HTMLUListElement | undefined = $state();

  const crumbs = $derived(view && view.path !== '' ? view.path.split('/') : []);

  async function open(root: string, path: string, focusList = true) {
    const mine = ++asked;
    isOpening = true;
    let response: Response;
    let body: unknown;
    try {
      response = await fetch(`/api/folders?${new URLSearchParams({ root, path }).toString()}`);
      body = await response.json();
    } catch {
      if (mine === asked) {
        isOpening = false;
        failure = {
          message: 'The folder could not be asked for: the server does not answer.',
          remedy: 'Start it again with ./mint start, then choose the folder once more.',
        };
      }
      return;
    }
    if (mine !== asked) return;
    isOpening = false;
    if (response.ok) {
      view = folderViewSchema.parse(body);
      failure = null;
      if (!focusList) return;
      // As soon as it stands there: a key that is pressed before would go nowhere.
      await tick();
      list?.querySelector('button')?.focus();
    } else failure = body as { message: string; remedy: string };
  }

  // Once: the roots come anew with everything that happens elsewhere, and whoever has walked on stays there.
  onMount(() => {
    const [first] = roots;
    if (first) void open(first.name, '', false);
  });

  /** Arrow keys walk the list, as in a list they should. */
  function walk(event: KeyboardEvent) {
    const buttons = [...(list?.querySelectorAll('button') ?? [])];
    const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
    if (event.key === 'ArrowDown') buttons[Math.min(buttons.length - 1, at + 1)]?.focus();
    else if (event.key === 'ArrowUp') buttons[Math.max(0, at - 1)]?.focus();
    else if (event.key === 'Backspace' && view && view.path !== '') void open(view.root, crumbs.slice(0, -1).join('/'));
    else return;
    event.preventDefault();
  }
</script>

<div class="grid min-h-0 flex-1 grid-cols-[250px_1fr] border border-line bg-raised">
  <ul class="overflow-y-auto border-r border-line py-2" aria-label="Roots">
    {#each roots as root (root.name)}
      <li>
        <button
          type="button"
          class={[
            'w-full px-4 py-1.5 text-left hover:bg-hover focus-visible:-outline-offset-2',
            view?.root === root.name && 'border-l-[3px] border-mint pl-[13px] font-bold',
          ]}
          onclick={() => open(root.name, '')}
        >
          {root.name}<span class="figure block truncate text-[12px] font-normal text-soft" title={root.path}>{root.path}</span>
        </button>
      </li>
    {/each}
  </ul>
  <div class="flex min-h-0 min-w-0 flex-col">
    {#if failure}<Problem message={failure.message} remedy={failure.remedy} />{/if}
    {#if view}
      <div class="flex items-center gap-1 border-b border-line px-4 py-2">
        <nav class="flex min-w-0 flex-1 flex-wrap items-center gap-1" aria-label="Where this is">
          <button type="button" class="hover:underline" onclick={() => open(view!.root, '')}>{view.root}</button>
          {#each crumbs as crumb, index (index)}
            <ChevronRight size={14} class="text-soft" aria-hidden="true" />
            <button type="button" class="hover:underline" onclick={() => open(view!.root, crumbs.slice(0, index + 1).join('/'))}>{crumb}</button>
          {/each}
        </nav>
        <span class="text-[13px] whitespace-nowrap text-soft">{counted(view.files, 'file')} here</span>
        <button type="button" class="button button-main ml-3" disabled={isOpening} onclick={() => onchoose(view!.root, view!.path)}>Use this folder</button>
      </div>
      <!-- The keys act on the buttons inside. -->
      <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
      <ul bind:this={list} class="min-h-0 flex-1 overflow-y-auto py-1" aria-label="Folders" onkeydown={walk}>
        {#if view.path !== ''}
          <li>
            <button
              type="button"
              class="flex w-full items-center gap-2.5 px-4 py-1.5 text-left text-soft hover:bg-hover focus-visible:-outline-offset-2"
              onclick={() => open(view!.root, crumbs.slice(0, -1).join('/'))}><CornerLeftUp size={16} aria-hidden="true" />one folder up</button
            >
          </li>
        {/if}
        {#each view.folders as name (name)}
          <li>
            <button
              type="button"
              class="flex w-full items-center gap-2.5 px-4 py-1.5 text-left hover:bg-hover focus-visible:-outline-offset-2"
              onclick={() => open(view!.root, [...crumbs, name].join('/'))}><Folder size={16} class="text-soft" aria-hidden="true" />{name}</button
            >
          </li>
        {:else}
          <li class="px-4 py-2 text-soft">No folders in here{view.files > 0 ? '; its files can be used.' : '.'}</li>
        {/each}
        {#if view.more > 0}<li class="px-4 py-2 text-soft">and {counted(view.more, 'more folder')}</li>{/if}
      </ul>
    {/if}
  </div>
</div>
