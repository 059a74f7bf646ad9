<!-- What was handed over of the shot: packages, with what the other side said. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import type { Receipt } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import { counted, formatMoment, sayBytes } from '$lib/text/format';
  import { sayReceipt, sayWish, verifyLine, type PackageView } from './handoff-view';

  let {
    shotId,
    packages,
    strays,
    problem,
    attached,
  }: {
    shotId: number;
    packages: readonly PackageView[];
    /** Receipts of packages that are none of the shot's. */
    strays: readonly Receipt[];
    problem: string;
    attached: string;
  } = $props();
</script>

<section aria-label="Packages" class="mt-6">
  <h3 class="font-bold">Packages</h3>
  {#if packages.length === 0}<p class="mt-1 text-[13px] text-soft">None yet. A package is written when every gate lets the shot through.</p>{/if}
  {#if packages.length > 0}
    <table class="mt-1 w-full border-collapse text-left text-[14px]">
      <thead class="text-[13px] text-soft"
        ><tr><th class="font-normal">Where</th><th class="font-normal">What</th><th class="font-normal">Receipt</th><th></th></tr></thead
      >
      <tbody>
        {#each packages as one (one.id)}
          <tr class="border-t border-line align-top">
            <td class="py-1.5 pr-3"
              ><div class="figure [overflow-wrap:anywhere]">{one.path ?? `${one.root}: ${one.folder}`}</div>
              <div class="text-[13px] text-soft">{one.actor}, {formatMoment(one.at)}</div></td
            >
            <td class="py-1.5 pr-3"
              ><div class="whitespace-nowrap">{counted(one.files, 'file')}, {sayBytes(one.bytes)}{one.volumes > 1 ? `, ${one.volumes} volumes` : ''}</div>
              <div class="text-[13px] text-soft">{sayWish(one.wish)}</div></td
            >
            <td class="py-1.5 pr-3 text-[13px]">
              {#each one.receipts as receipt (receipt.at)}<div class={[!(receipt.valid && receipt.ready) && 'font-bold text-bad']}>{sayReceipt(receipt)}</div>
              {:else}<span class="text-soft">none yet</span>{/each}
            </td>
            <td class="w-[210px] py-1.5 text-right"
              ><span class="inline-flex flex-wrap justify-end gap-1">
                {#if one.path && one.wish.form === 'tar' && one.volumes === 1}<a
                    class="button button-small"
                    href="/shots/{shotId}/handoff/package/{one.id}/?download"
                    download>Save</a
                  >{/if}
                {#if one.path}<CopyButton small text={verifyLine(one)} label="Copy verify command" />{/if}
                {#if one.volumes === 1}<CopyButton
                    small
                    text={one.manifestSha256}
                    label={one.wish.form === 'tar' ? 'Copy the tar’s checksum' : 'Copy manifest checksum'}
                  />{/if}
              </span></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    <form method="POST" action="?/receipt" enctype="multipart/form-data" class="mt-2 flex flex-wrap items-center gap-2 text-[13px]" use:enhance>
      <label class="flex flex-wrap items-center gap-2"
        ><span class="text-soft">A receipt that came back</span><input
          type="file"
          name="receipt"
          accept=".json,application/json"
          class="max-w-[260px] file:mr-2 file:cursor-pointer file:rounded file:border file:border-control file:bg-transparent file:px-2 file:py-0.5"
        /></label
      >
      <button type="submit" class="button button-small">Attach</button>
    </form>
    {#if problem}<div class="mt-1"><Problem message={problem} /></div>{/if}
    {#if attached === 'none'}<p class="mt-1 text-[13px] font-bold" role="status">
        It is of another package than those of this shot: its manifest is another.
      </p>{/if}
    {#if attached === 'one'}<p class="mt-1 text-[13px]" role="status">Attached.</p>{/if}
  {/if}
  {#each strays as stray (stray.at)}<p class="mt-1 text-[13px] text-soft">
      A receipt of another package{stray.shot === '' ? '' : ` of ${stray.shot}`}: {sayReceipt(stray)}
    </p>{/each}
</section>
