<script lang="ts">
  import { gateNames } from '@mint-tally/core';
  import Plus from '@lucide/svelte/icons/plus';
  import Coin from '$lib/coin/Coin.svelte';
  import Brand from '$lib/controls/Brand.svelte';
  import ThemeButton from '$lib/controls/ThemeButton.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import RowRibbon from '$lib/ribbon/RowRibbon.svelte';
  import Legend from '$lib/states/Legend.svelte';
  import { counted, formatCount } from '$lib/text/format';

  let { data } = $props();

  const live = useLive();
  const sound = $derived(data.shots.reduce((sum, { summary }) => sum + (summary?.sound ?? 0), 0));
  const expected = $derived(data.shots.reduce((sum, { summary }) => sum + (summary?.expected ?? 0), 0));
</script>

<svelte:head><title>{data.project.name} · Mint Tally</title></svelte:head>

<header class="flex h-[46px] shrink-0 items-center gap-5 border-b border-line bg-bar px-4">
  <Brand />
  <h1 class="font-bold">{data.project.name}</h1>
  <span class="text-soft">{counted(data.shots.length, 'shot')}</span>
  <span class="flex-1"></span>
  <ThemeButton />
  <a class="button" href="/shots/new"><Plus size={15} aria-hidden="true" />New shot</a>
</header>

<main class="min-h-0 flex-1 overflow-y-auto px-4.5 pt-2">
  {#if data.shots.length === 0}
    <div class="mx-auto mt-28 max-w-md">
      <h2 class="text-[20px] font-bold">No shots yet</h2>
      <p class="mt-2 text-soft">
        Point Mint Tally at a folder of rendered frames. It looks what is there, proposes what was ordered, and counts the one against the other.
      </p>
      <a class="button button-main mt-5" href="/shots/new"><Plus size={15} aria-hidden="true" />New shot</a>
    </div>
  {:else}
    <table class="w-full table-fixed border-collapse text-left small:block">
      <thead class="small:sr-only">
        <tr class="text-[13px] text-soft">
          <th class="w-[68px] py-2 font-normal"><span class="sr-only">Gates</span></th>
          <th class="w-[166px] py-2 font-normal max-[1100px]:w-[140px]">Shot</th>
          <th class="w-[206px] py-2 max-[1100px]:w-[180px] font-normal">Sound of ordered</th>
          <th class="py-2 font-normal">Frames, the worst of all passes</th>
          <th class="w-[248px] py-2 pl-11 font-normal max-[1100px]:w-[216px] max-[1100px]:pl-6">Next</th>
        </tr>
      </thead>
      <tbody class="small:block">
        {#each data.shots as shot (shot.id)}
          {@const { summary } = shot}
          {@const job = live.active(shot.id, 'count') ?? live.active(shot.id, 'package')}
          <tr
            class="relative border-y border-line hover:bg-raised has-[a:focus-visible]:bg-raised small:grid small:grid-cols-[68px_minmax(0,1fr)_minmax(0,1fr)] small:items-center small:gap-y-2 small:py-2"
          >
            <td class="py-4 small:row-span-2 small:py-0"
              >{#if summary}<Coin gates={gateNames.map((name, i) => ({ name, state: summary.gates[i] }))} stamped={summary.handedOver} />{/if}</td
            >
            <td class="pr-3">
              <a class="text-[16px] font-bold [overflow-wrap:anywhere] after:absolute after:inset-0" href="/shots/{shot.id}/tally">{shot.name}</a>
              <div class="truncate text-[13px] text-soft" title={shot.note}>{shot.note}</div>
            </td>
            {#if summary}
              <td>
                {#if summary.counted}<span class="figure text-[23px]">{formatCount(summary.sound)}</span>
                  <span class="figure ml-2 text-soft">of {formatCount(summary.expected)}</span>
                {:else}<span class="figure text-[23px] text-soft">–</span> <span class="figure ml-2 text-soft">of {formatCount(summary.expected)}</span>{/if}
              </td>
              <td class="small:col-span-2">
                <RowRibbon states={summary.states} />
                <div class="figure mt-1.5 flex gap-6 text-[13px] text-soft">
                  <span class="truncate">{summary.range}</span>{#if summary.fps}<span class="whitespace-nowrap">{summary.fps} fps</span>{/if}
                </div>
              </td>
              <td class="pl-11 small:col-span-2 max-[1100px]:pl-6 small:col-start-2 small:pl-0">
                {#if job}<div class="relative z-10"><JobBar {job} /></div>{:else}<span class={summary.blocked ? 'font-bold' : ''}>{summary.next}</span>{/if}
              </td>
            {:else}
              <td colspan="3" class="relative z-10 py-3"><Problem message={shot.problem} /></td>
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</main>

{#if data.shots.length > 0}
  <footer class="flex min-h-[34px] shrink-0 flex-wrap items-center justify-between gap-x-5 gap-y-1 border-t border-line bg-bar px-4.5 py-0.5">
    <span class="text-[13px] text-soft"
      ><span class="figure text-ink">{formatCount(sound)}</span> of <span class="figure text-ink">{formatCount(expected)}</span> ordered frames are sound<a
        class="ml-6 underline decoration-control underline-offset-3 hover:text-ink"
        href="/kept">Kept on disk</a
      ><a class="ml-6 underline decoration-control underline-offset-3 hover:text-ink" href="/api">API</a></span
    >
    <Legend />
  </footer>
{/if}
