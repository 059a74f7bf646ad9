<!-- The order on one page that prints well. -->
<script lang="ts">
  import { durationSeconds, formatFrameRate, formatTimecode, orderSheet, parseFrameRate, planDisk, workOutOrder } from '@mint-tally/core';
  import { sayBytes, formatCount } from '$lib/text/format';

  let { data } = $props();

  const brief = $derived(data.state.brief);
  const order = $derived(workOutOrder(brief));
  const plan = $derived(planDisk(order, () => null));
  const rate = $derived(brief.fps === undefined ? null : parseFrameRate(brief.fps));
</script>

<svelte:head><title>{data.state.shot.name}: order sheet · Mint Tally</title></svelte:head>

<main class="sheet min-h-0 flex-1 overflow-y-auto px-8 py-6">
  <div class="flex items-baseline justify-between">
    <h2 class="text-[22px] font-bold">{data.state.shot.name} <span class="font-normal text-soft">{data.state.shot.note}</span></h2>
    <button type="button" class="button print:hidden" onclick={() => print()}>Print</button>
  </div>
  <p class="text-soft">{data.project.name}, brief version {data.state.briefVersion}</p>
  <dl class="mt-4 grid max-w-[720px] grid-cols-[140px_1fr] gap-y-1 [&>dt]:text-soft">
    <dt>Range</dt>
    <dd class="figure">{brief.range}, {formatCount(order.frames.size)} frames</dd>
    {#if rate}<dt>Rate and time</dt>
      <dd class="figure">
        {formatFrameRate(rate)} fps, {durationSeconds(order.frames.size, rate).toFixed(3)} s, {formatTimecode(order.frames.size, rate)}
      </dd>{/if}
    {#if brief.handles}<dt>Handles</dt>
      <dd class="figure">{brief.handles[0]} at the head, {brief.handles[1]} at the tail</dd>{/if}
    {#if brief.loop}<dt>Loop</dt>
      <dd>the last frame is followed by the first</dd>{/if}
    {#if brief.cuts}<dt>Cuts</dt>
      <dd class="figure">at {brief.cuts}</dd>{/if}
    {#if brief.resolution}<dt>Resolution</dt>
      <dd class="figure">{brief.resolution.join(' x ')}{brief.pixelAspect && brief.pixelAspect !== 1 ? `, pixel aspect ${brief.pixelAspect}` : ''}</dd>{/if}
    {#if brief.sampling}<dt>Sampling</dt>
      <dd class="figure">
        {[
          brief.sampling.samples && `${brief.sampling.samples} samples`,
          brief.sampling.secondsPerFrame && `${brief.sampling.secondsPerFrame} s a frame`,
          brief.sampling.noise && `noise ${brief.sampling.noise}`,
        ]
          .filter(Boolean)
          .join(', ')}
      </dd>{/if}
    {#if brief.sound}<dt>Sound</dt>
      <dd class="figure">{brief.sound.file}, {(brief.sound.samples / brief.sound.sampleRate).toFixed(3)} s</dd>{/if}
    {#if plan}<dt>Files and disk</dt>
      <dd class="figure">{formatCount(plan.files)} files, about {sayBytes(plan.bytes)}</dd>{/if}
  </dl>
  <table class="mt-6 w-full border-collapse text-left text-[13px]">
    <thead
      ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal"
        ><th>Pass</th><th>Role</th><th>Frames</th><th>First and last file</th><th>Size</th><th>Channels</th><th>Depth</th><th>Packed</th><th>Alpha</th></tr
      ></thead
    >
    <tbody>
      {#each orderSheet(order) as row (row.pass)}
        <tr class="border-b border-line align-top [&>td]:py-1.5 [&>td]:pr-3">
          <th scope="row" class="py-1.5 pr-3 font-bold">{row.pass}</th><td>{row.role}</td><td class="figure"
            >{row.range}<br /><span class="text-soft">{formatCount(row.frames)}</span></td
          >
          <td class="figure [overflow-wrap:anywhere]">{row.first}<br />{row.last}</td><td class="figure whitespace-nowrap"
            >{row.width && `${row.width} x ${row.height}`}</td
          >
          <td class="figure">{row.channels}</td><td>{row.depth}</td><td>{row.compression}</td><td>{row.alpha}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</main>
