<!-- What mends have taken out: bring it back, keep it until a day, let it go. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import Dialog from '$lib/controls/Dialog.svelte';
  import { counted, formatMoment, sayBytes } from '$lib/text/format';
  import type { KeptView } from './mend-view';

  let { kept, isBlocked }: { kept: readonly KeptView[]; isBlocked: boolean } = $props();

  const SHOWN = 8;
  let leaving: KeptView | null = $state(null);
  let isOpen = $state(false);
  let opened: string | null = $state(null);
  const bytes = $derived(kept.reduce((sum, one) => sum + one.bytes, 0));
  const restore = (mend: string, path?: string) => `?${new URLSearchParams({ do: 'restore', mend, ...(path === undefined ? {} : { path }) }).toString()}`;
</script>

<h3 class="mb-2 font-bold">
  What is kept{kept.length > 0
    ? `: ${counted(
        kept.reduce((sum, one) => sum + one.fileCount, 0),
        'file',
      )}, ${sayBytes(bytes)}`
    : ''}
</h3>
{#if kept.length === 0}
  <p class="text-soft">Nothing is kept here. What a mend takes out is never deleted at once: it is kept with its path, and can come back.</p>
{/if}
<ul class="space-y-3">
  {#each kept as one (one.mend)}
    {@const files = opened === one.mend ? one.files : one.files.slice(0, SHOWN)}
    <li class="border-l-2 border-line pl-3" aria-label={one.says}>
      <div class="flex flex-wrap items-center gap-2 text-[13px]">
        <b class="text-[14px]">{one.says}</b>
        <span class="mr-auto text-soft"
          >{formatMoment(one.at)}: <span class="figure">{counted(one.fileCount, 'file')}, {sayBytes(one.bytes)}</span>, kept until {formatMoment(
            one.goesAt,
          )}{one.isKeptOn ? ' as somebody said' : ''}</span
        >
        <a class="button button-small" href={restore(one.mend)}>Bring all back…</a>
        <form method="POST" action="?/keep&do=kept" use:enhance class="flex items-center gap-1.5">
          <input type="hidden" name="journal" value={one.mend} />
          <label class="text-soft"
            >until <input type="date" name="until" class="field figure w-[150px] !py-0.5" value={one.goesAt.slice(0, 10)} required /></label
          >
          <button type="submit" class="button button-small">Keep</button>
        </form>
        <button type="button" class="button button-small" disabled={isBlocked} onclick={() => ((leaving = one), (isOpen = true))}>Let go…</button>
      </div>
      <ul class="mt-1 text-[13px]">
        {#each files as { path, bytes: size, reason } (path)}
          <li class="flex flex-wrap items-baseline gap-x-3 border-t border-line py-0.5">
            <span class="figure min-w-0 [overflow-wrap:anywhere]">{path}</span><span class="figure text-soft">{sayBytes(size)}</span>
            <span class="mr-auto text-soft">{reason}</span>
            <a class="underline decoration-control underline-offset-3" href={restore(one.mend, path)} aria-label="Bring back {path}">bring back</a>
          </li>
        {/each}
      </ul>
      {#if one.files.length > SHOWN}
        <button
          type="button"
          class="mt-1 text-[13px] underline decoration-control underline-offset-3"
          onclick={() => (opened = opened === one.mend ? null : one.mend)}
          >{opened === one.mend ? 'Show fewer' : `Show ${one.files.length === one.fileCount ? 'all' : 'the first'} ${one.files.length}`}</button
        >
      {/if}
    </li>
  {/each}
</ul>
<Dialog
  bind:open={isOpen}
  title="Let it go for good?"
  text={leaving
    ? `${counted(leaving.fileCount, 'file')}, ${sayBytes(leaving.bytes)}, of “${leaving.says}” are deleted. That mend, and those before it, cannot be taken back any more.`
    : ''}
  leave="Keep it"
  main={{ label: 'Delete', grave: true }}
>
  {#snippet children(formId)}
    <form
      id={formId}
      method="POST"
      action="?/letgo&do=kept"
      use:enhance={() =>
        async ({ update }) => {
          isOpen = false;
          await update();
        }}
    >
      <input type="hidden" name="journal" value={leaving?.mend} />
    </form>
  {/snippet}
</Dialog>
