<!-- Frames that are to be rendered again: why, and how far they have come. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import Select from '$lib/controls/Select.svelte';
  import FrameList from '$lib/text/FrameList.svelte';
  import { counted, formatMoment } from '$lib/text/format';
  import type { ListView } from './mend-view';

  let { shotId, list, passes }: { shotId: number; list: readonly ListView[]; passes: readonly string[] } = $props();

  let pass = $state('');
  const left = $derived(list.reduce((sum, { leftCount }) => sum + leftCount, 0));
  const done = $derived(list.filter(({ leftCount }) => leftCount === 0));
  const text = $derived(list.flatMap((entry) => entry.left.map((one) => `${one.pass}\t${one.frames}\t${entry.reason}`)).join('\n'));
</script>

<div class="mb-2 flex flex-wrap items-center gap-3">
  <h3 class="mr-auto font-bold">Mend list{list.length > 0 ? `: ${left === 0 ? 'all back' : `${counted(left, 'frame')} to come`}` : ''}</h3>
  {#if left > 0}
    <CopyButton small {text} label="Copy the list" />
    <a class="button button-main" href="/shots/{shotId}/batch?list">Render these…</a>
  {/if}
</div>
<form
  method="POST"
  action="?/list&do=list"
  use:enhance
  class="mb-3 flex flex-wrap items-start gap-3 border-b border-line pb-3"
  aria-label="Put frames on the list"
>
  <label class="w-[140px] text-soft"><span class="mb-1 block">Frames</span><input class="field figure" name="frames" required placeholder="1010-1012" /></label>
  <div class="w-[130px]">
    <Select label="Pass" name="pass" bind:value={pass} options={[['', 'all passes'], ...passes.map((name) => [name, name] as const)]} />
  </div>
  <label class="min-w-[150px] flex-1 text-soft"><span class="mb-1 block">Why</span><input class="field" name="reason" required maxlength="1000" /></label>
  <button type="submit" class="button mt-[25px]">Put on the list</button>
</form>
{#if list.length === 0}
  <p class="text-soft">Nothing is listed. Findings, a selection in the ribbon, the viewer and a batch’s bad frames each have a button that puts frames here.</p>
{:else}
  <table class="w-full text-left text-[13px]" aria-label="Frames to render again">
    <thead>
      <tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
        ><th>Why</th><th>Listed</th><th>To come</th><th>State</th><th><span class="sr-only">Actions</span></th></tr
      >
    </thead>
    <tbody>
      {#each list as { id, pass: of, frames, reason, at, actor, left: toCome, leftCount, backCount, odd } (id)}
        <tr class="border-b border-line align-top [&>td]:py-1 [&>td]:pr-3">
          <td class="[overflow-wrap:anywhere]">{reason}<span class="block text-soft">{actor}, {formatMoment(at)}</span></td>
          <td><span class="block">{of === '' ? 'all passes' : of}</span><span class="figure"><FrameList text={frames} /></span></td>
          <td
            >{#each toCome as one (one.pass)}<span class="block"
                ><span class="text-soft">{one.pass}</span> <span class="figure"><FrameList text={one.frames} /></span></span
              >{:else}–{/each}</td
          >
          <td
            >{leftCount === 0 ? 'all back' : `${backCount} of ${backCount + leftCount} back`}{#if odd}<span class="block text-soft"
                >to be looked at: <span class="figure">{odd}</span></span
              >{/if}</td
          >
          <td class="text-right">
            <form method="POST" action="?/drop&do=list" use:enhance>
              <input type="hidden" name="entry" value={id} /><button type="submit" class="button button-small">Take off</button>
            </form>
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
  {#if done.length > 0 && done.length < list.length}
    <form method="POST" action="?/drop&do=list" use:enhance class="mt-2">
      {#each done as { id } (id)}<input type="hidden" name="entry" value={id} />{/each}
      <button type="submit" class="button button-small">Take off what is back</button>
    </form>
  {/if}
{/if}
