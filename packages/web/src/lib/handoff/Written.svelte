<!-- What was handed over of the shot: packages with what the other side said, and movies. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import type { Receipt } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import { counted, formatMoment, sayBytes } from '$lib/text/format';
  import { sayWish, verifyLine, type MovieView, type PackageView } from './handoff-view';

  let {
    shotId,
    packages,
    movies,
    strays,
    problem,
    attached,
  }: {
    shotId: number;
    packages: readonly PackageView[];
    movies: readonly MovieView[];
    /** Receipts of packages that are none of the shot's. */
    strays: readonly Receipt[];
    problem: string;
    attached: string;
  } = $props();

  const sayReceipt = ({ valid, ready, problems, person, at, files }: Receipt) =>
    `${valid && ready ? `arrived whole, ${counted(files, 'file')}` : valid ? 'arrived whole, and something stands against the frames' : `${counted(problems.length, 'problem')}: ${problems[0]?.message ?? ''}`}${person === '' ? '' : `; ${person}`}, ${formatMoment(at)}`;
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
                {#if one.path}<CopyButton small text={verifyLine(one)} label="Copy verify command" />{/if}
                {#if one.volumes === 1}<CopyButton small text={one.manifestSha256} label={one.wish.form === 'tar' ? 'Copy the tar’s checksum' : 'Copy manifest checksum'} />{/if}
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

<section aria-label="Movies" class="mt-6">
  <h3 class="font-bold">Review movies</h3>
  {#if movies.length === 0}<p class="mt-1 text-[13px] text-soft">None yet.</p>{:else}
    <table class="mt-1 w-full border-collapse text-left text-[14px]">
      <tbody>
        {#each movies as movie (movie.id)}
          {@const { made } = movie}
          <tr class="border-t border-line align-top">
            <td class="py-1.5 pr-3"
              ><div class="figure [overflow-wrap:anywhere]">{movie.file}</div>
              <div class="text-[13px] text-soft">{movie.actor}, {formatMoment(movie.at)}</div></td
            >
            <td class="py-1.5 pr-3"
              >{movie.pass}, {counted(made.frames, 'frame')} at {made.fps}, <span class="figure">{made.seconds.toFixed(2)}</span> s,
              <span class="figure">{made.width} x {made.height}</span>, {sayBytes(made.bytes)}
              <div class={['text-[13px]', made.slates === '' ? 'text-soft' : 'font-bold']}>
                {made.slates === '' ? 'every frame is there; read back and right' : `slates stand for ${made.slates}`}
              </div></td
            >
            <td class="w-[150px] py-1.5 text-right whitespace-nowrap">
              {#if movie.isThere}
                <a class="button button-small" href="/shots/{shotId}/handoff/movie/{movie.id}" target="_blank" rel="noopener">Watch</a>
                <a class="button button-small" href="/shots/{shotId}/handoff/movie/{movie.id}?download" download>Save</a>
              {:else}<span class="text-[13px] text-soft">not there any more</span>{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>
