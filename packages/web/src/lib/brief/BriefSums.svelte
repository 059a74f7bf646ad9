<!-- What the brief comes to, while it is typed: frames, time, files, disk, names, and what should be looked at before the render. -->
<script lang="ts">
  import {
    adviceCodes,
    adviseBrief,
    durationSeconds,
    formatFrameRange,
    formatTimecode,
    FrameSet,
    framePath,
    parseFrameRate,
    planDisk,
    scoutOrder,
    screenRun,
    workOutOrder,
    type Brief,
    type Specification,
  } from '@mint-tally/core';
  import DeliverySection from './DeliverySection.svelte';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { counted, sayBytes, formatCount, formatSeconds } from '$lib/text/format';

  let {
    brief,
    folder,
    freeBytes,
    meanBytes,
    specifications,
    follows = $bindable(),
    onchange,
  }: {
    brief: Brief | null;
    folder: string | null;
    freeBytes: number | null;
    meanBytes: Readonly<Record<string, number>>;
    specifications: readonly Specification[];
    follows: string;
    onchange: () => void;
  } = $props();

  const SCOUTS = 12;
  const order = $derived(brief ? workOutOrder(brief) : null);
  const rate = $derived(brief?.fps === undefined ? null : parseFrameRate(brief.fps));
  const plan = $derived(order && planDisk(order, (pass) => meanBytes[pass] ?? null));
  const advice = $derived(order ? adviseBrief(order, { folder, freeBytes, plannedBytes: plan?.bytes ?? null }) : []);
  const handles = $derived((brief?.handles?.[0] ?? 0) + (brief?.handles?.[1] ?? 0));
  const run = $derived(order && screenRun(order.brief.range));
  /** Frames of the cut on screen: what the range covers, without its handles. */
  const cut = $derived((run?.span ?? order?.frames.size ?? 0) - handles);
  const scouts = $derived(order ? scoutOrder(order.frames, Math.max(1, Math.ceil(order.frames.size / SCOUTS))).scouts : []);
  const renderSeconds = $derived(brief?.sampling?.secondsPerFrame === undefined || !order ? null : brief.sampling.secondsPerFrame * order.frames.size);
</script>

<aside
  class="flex w-[334px] shrink-0 flex-col overflow-y-auto border-l border-line bg-raised small:w-full small:border-t small:border-l-0"
  aria-label="What the brief comes to"
>
  {#if !order}
    <p class="p-4 text-soft">The sums appear when every entry can be read. Look at the marked ones.</p>
  {:else}
    <dl class="grid grid-cols-[92px_1fr] gap-y-1 border-b border-line px-4 py-3 text-[13px] [&>dt]:text-soft">
      <dt>Frames</dt>
      <dd class="figure">
        {formatCount(order.frames.size)}{#if handles > 0}
          <span class="text-soft">({order.frames.size - handles} + {handles} handles)</span>{/if}
      </dd>
      {#if rate}
        <dt>Time</dt>
        <dd class="figure">
          {durationSeconds(cut, rate).toFixed(3)} s
          <span class="text-soft">{formatTimecode(cut, rate, brief?.dropFrame ?? false)}</span>
        </dd>
      {/if}
      {#if run && run.step > 1}<dt>Step</dt>
        <dd class="figure">every {run.step}</dd>{/if}
      {#if plan}
        <dt>Files</dt>
        <dd class="figure">{formatCount(plan.files)}</dd>
        <dt>Disk</dt>
        <dd><span class="figure">{sayBytes(plan.bytes)}</span> <span class="text-soft">{plan.known ? 'by the frames of this shot' : 'estimated'}</span></dd>
      {:else}<dt>Disk</dt>
        <dd class="text-soft">needs a size</dd>{/if}
      {#if freeBytes !== null}<dt>Free</dt>
        <dd class="figure">{sayBytes(freeBytes)}</dd>{/if}
      {#if renderSeconds !== null}<dt>Render</dt>
        <dd class="figure">{formatSeconds(renderSeconds)} <span class="text-soft">on one machine</span></dd>{/if}
    </dl>
    <section class="border-b border-line" aria-label="Before the render">
      <h3 class="flex justify-between bg-ground px-4 py-1.5 text-[13px] text-soft">
        <span>Before the render</span><span class="figure">{advice.length}</span>
      </h3>
      {#if advice.length === 0}<p class="px-4 py-2.5 text-[13px] text-soft">Nothing to say: the sums agree, and the kinds suit their roles.</p>{/if}
      <ul>
        {#each advice as one (one.code + one.field)}
          <li class="flex gap-3 border-t border-line px-4 py-2 text-[13px]" data-advice={one.code}>
            <span class="mt-0.5"><StateMark state={one.severity === 'blocker' ? 'broken' : one.severity === 'warning' ? 'odd' : null} size={13} /></span>
            <div class="min-w-0 [overflow-wrap:anywhere]">
              <div class="text-[14px] font-bold">{adviceCodes[one.code].title}</div>
              <div>{one.message}</div>
              <div class="figure mt-0.5 text-[12.5px] text-soft">{one.sum}</div>
            </div>
          </li>
        {/each}
      </ul>
    </section>
    <DeliverySection {order} {specifications} bind:follows {onchange} />
    <section aria-label="Names on disk">
      <h3 class="bg-ground px-4 py-1.5 text-[13px] text-soft">First and last name on disk</h3>
      <ul class="space-y-2 px-4 py-2.5 text-[12.5px]">
        {#each order.passes as { pass, pattern, frames } (pass.name)}
          <li class="figure [overflow-wrap:anywhere]">
            {framePath(pattern, frames.first ?? 0)}<br /><span class="text-soft">{framePath(pattern, frames.last ?? 0)}</span>
          </li>
        {/each}
      </ul>
    </section>
    <section class="border-t border-line" aria-label="Scout frames">
      <h3 class="bg-ground px-4 py-1.5 text-[13px] text-soft">Scout first: trouble shows early</h3>
      <div class="px-4 py-2.5">
        <p class="figure text-[13px] [overflow-wrap:anywhere]">{scouts.join(' ')}</p>
        <div class="mt-2 flex gap-2">
          <CopyButton small text={formatFrameRange(FrameSet.of(scouts))} label="Copy as range" /><span class="self-center text-[13px] text-soft"
            >{counted(scouts.length, 'frame')}</span
          >
        </div>
      </div>
    </section>
  {/if}
</aside>
