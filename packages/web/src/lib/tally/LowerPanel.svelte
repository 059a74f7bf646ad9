<!-- Below the ribbon: the frame under the playhead, all files as rows, what changed, earlier counts. -->
<script lang="ts">
  import { Tabs } from 'bits-ui';
  import FilesTable from '$lib/files/FilesTable.svelte';
  import FramePanel from '$lib/frame/FramePanel.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import Changes from './Changes.svelte';
  import History from './History.svelte';

  let { state: shot }: { state: ShotState } = $props();

  let tab = $state('frame');
  const titles = [
    ['frame', 'Frame'],
    ['files', 'Files'],
    ['changes', 'What changed'],
    ['history', 'Earlier counts'],
  ] as const;
</script>

<Tabs.Root bind:value={tab} class="flex min-h-0 flex-1 flex-col border-t border-line">
  <Tabs.List class="flex h-[30px] shrink-0 gap-1 border-b border-line bg-bar px-3 text-[13px]" aria-label="Below the ribbon">
    {#each titles as [value, title] (value)}
      <Tabs.Trigger
        {value}
        class="border-y-2 border-transparent px-2 text-soft hover:text-ink focus-visible:-outline-offset-2 data-[state=active]:border-b-mint data-[state=active]:font-bold data-[state=active]:text-ink"
        >{title}</Tabs.Trigger
      >
    {/each}
  </Tabs.List>
  <Tabs.Content value="frame" class="flex min-h-0 flex-1 data-[state=inactive]:hidden"
    >{#if tab === 'frame'}<FramePanel state={shot} />{/if}</Tabs.Content
  >
  <Tabs.Content value="files" class="flex min-h-0 flex-1 data-[state=inactive]:hidden"
    >{#if tab === 'files'}<FilesTable state={shot} />{/if}</Tabs.Content
  >
  <Tabs.Content value="changes" class="flex min-h-0 flex-1 data-[state=inactive]:hidden"
    >{#if tab === 'changes'}<Changes state={shot} />{/if}</Tabs.Content
  >
  <Tabs.Content value="history" class="flex min-h-0 flex-1 data-[state=inactive]:hidden"
    >{#if tab === 'history'}<History state={shot} />{/if}</Tabs.Content
  >
</Tabs.Root>
