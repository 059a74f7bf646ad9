<!-- What a merge will do, or has done: what comes from where, what is the same, what differs, what is missing. -->
<script lang="ts">
  import StateMark from '$lib/states/StateMark.svelte';
  import FrameList from '$lib/text/FrameList.svelte';
  import { counted, sayBytes, formatCount, formatMoment } from '$lib/text/format';
  import type { MergeView } from './merge-view';

  let { shotId, merge, onchoose }: { shotId: number; merge: MergeView; onchoose: ((target: string, source: number, path: string) => void) | null } = $props();

  const labels = $derived(merge.from.map(({ label }) => label));
  const pictureOf = (pass: string, source: number, path: string) =>
    `/shots/${shotId}/batch/merge/picture?${new URLSearchParams({ pass, source: String(source), path }).toString()}`;
  const ranges = (list: readonly { pass: string; frames: string }[]) => list.map(({ pass, frames }) => `${pass} ${frames}`).join(', ');
</script>

<table class="w-full table-fixed text-left text-[13px]" aria-label="What comes from where">
  <thead
    ><tr class="border-b border-line text-soft [&>th]:py-1 [&>th]:font-normal"
      ><th class="w-[210px]">From</th><th class="w-[70px] text-right">Files</th><th class="w-[90px] text-right">Size</th><th class="pl-5">Frames</th></tr
    ></thead
  >
  <tbody>
    {#each merge.from as { label, passes, files, bytes }, i (i)}
      <tr class="border-b border-line align-top [&>td]:py-1">
        <td class="[overflow-wrap:anywhere]"
          >{label}{#if i === 0}<span class="text-soft"> (stays)</span>{/if}</td
        >
        <td class="figure text-right">{formatCount(files)}</td>
        <td class="figure text-right text-soft">{files === 0 ? '–' : sayBytes(bytes)}</td>
        <td class="figure pl-5"><FrameList text={ranges(passes) || '–'} /></td>
      </tr>
    {/each}
  </tbody>
</table>

<ul class="mt-3 space-y-1.5 text-[13px]" aria-label="What was found">
  <li class="flex gap-2.5">
    <span class="mt-0.5"><StateMark state={merge.gaps.length > 0 ? 'missing' : 'sound'} size={13} /></span><span
      >{#if merge.gaps.length > 0}In none of the folders: <span class="figure"><FrameList text={ranges(merge.gaps)} /></span>{:else}No gap: every ordered frame
        is in one of the folders.{/if}</span
    >
  </li>
  {#if merge.same.length > 0}<li class="flex gap-2.5">
      <span class="mt-0.5"><StateMark state="sound" size={13} /></span><span
        >The same bytes in several folders, taken once: <span class="figure"><FrameList text={ranges(merge.same)} /></span></span
      >
    </li>{/if}
  {#if merge.renamed > 0}<li class="flex gap-2.5">
      <span class="mt-0.5"><StateMark state="odd" size={13} /></span><span
        >{counted(merge.renamed, 'file')} named or padded otherwise: brought under the ordered name.</span
      >
    </li>{/if}
  {#if merge.replaced > 0}<li class="flex gap-2.5">
      <span class="mt-0.5"><StateMark state="odd" size={13} /></span><span
        >{counted(merge.replaced, 'file')} of the shot’s own folder will make room, and be kept until the merge is taken back.</span
      >
    </li>{/if}
  {#if merge.strayCount > 0}<li class="flex gap-2.5">
      <span class="mt-0.5"><StateMark state="odd" size={13} /></span><span class="min-w-0"
        >{counted(merge.strayCount, 'file')} that no pass ordered, left where {merge.strayCount === 1 ? 'it is' : 'they are'}:
        <span class="figure [overflow-wrap:anywhere]">{merge.strays.slice(0, 3).join(', ')}{merge.strayCount > 3 ? ' …' : ''}</span></span
      >
    </li>{/if}
</ul>

{#if merge.conflicts.length > 0}
  <h3 class="mt-4 font-bold">Different bytes for one frame</h3>
  <p class="text-[13px] text-soft">
    {counted(merge.conflictCount, 'frame')}, decided by the rule{merge.conflictCount > merge.conflicts.length
      ? `; the first ${merge.conflicts.length} are shown`
      : ''}. {onchoose ? 'Choose another where the rule is wrong.' : ''}
  </p>
  <ul class="mt-1" aria-label="Different bytes">
    {#each merge.conflicts as step (step.target)}
      <li class="flex gap-4 border-t border-line py-2 text-[13px]">
        <div class="w-[104px] shrink-0"><span class="figure">{step.pass} {step.frame}</span><br /><span class="text-soft">{step.why}</span></div>
        <div class="flex min-w-0 flex-wrap gap-3">
          {#each [{ ...(step.from ?? { source: 0, path: step.target }), taken: true }, ...step.others.map( (other) => ({ ...other, taken: false }) )] as file (file.source + file.path)}
            {@const other = step.others.find(({ source, path }) => source === file.source && path === file.path)}
            <div class="w-[180px]">
              <img
                class={['aspect-video w-full bg-black object-contain', file.taken ? 'outline-2 outline-mint' : 'opacity-75']}
                src={pictureOf(step.pass, file.source, file.path)}
                alt="{step.pass} {step.frame} in {labels[file.source]}"
                loading="lazy"
              />
              <div class="mt-1 flex items-baseline gap-2">
                <span class="min-w-0 flex-1 truncate" title={file.path}>{labels[file.source]}</span>
                {#if file.taken}<b>taken</b>{:else if onchoose}<button
                    type="button"
                    class="underline hover:text-mint"
                    aria-label="Take {step.pass} {step.frame} from {labels[file.source]}"
                    onclick={() => onchoose(step.target, file.source, file.path)}>take this</button
                  >{/if}
              </div>
              {#if other}<div class="figure text-[12px] text-soft">
                  {sayBytes(other.size)}, {formatMoment(other.modified)}{other.samples === null ? '' : `, ${other.samples} samples`}
                </div>{:else}<div class="figure text-[12px] text-soft">{sayBytes(step.size)}</div>{/if}
            </div>
          {/each}
        </div>
      </li>
    {/each}
  </ul>
{/if}
