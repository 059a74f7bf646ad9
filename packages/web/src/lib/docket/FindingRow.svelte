<!-- One finding, or the same of several passes: its shape, where it is, what it says, and, when it is chosen, its evidence and what can be done. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { fileCountOf, findingCodes, findingGuide, isMendedByRendering, stateOfFinding } from '@mint-tally/core';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import RenderThese from '$lib/mend/RenderThese.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import MiniStrip from '$lib/ribbon/MiniStrip.svelte';
  import FrameList from '$lib/text/FrameList.svelte';
  import { counted } from '$lib/text/format';
  import { passesOf, type DocketEntry } from './groups';

  let {
    entry,
    frames,
    passCount,
    denoised,
    shotId,
    chosen,
    onchoose,
    onwaive,
  }: {
    entry: DocketEntry;
    frames: Int32Array;
    passCount: number;
    /** Passes that are denoised from others, and not rendered. */
    denoised: ReadonlySet<string>;
    shotId: number;
    chosen: boolean;
    onchoose: () => void;
    onwaive: () => void;
  } = $props();

  const finding = $derived(entry.findings[0]);
  const frameText = $derived(String(finding.frames));
  const files = $derived(entry.findings.flatMap((one) => one.files));
  const fileCount = $derived(entry.findings.reduce((sum, one) => sum + fileCountOf(one), 0));

  /** The page holds only the first files of a long list; the server has all. */
  async function allFiles(): Promise<string> {
    if (files.length === fileCount) return files.join('\n');
    const lists = entry.findings.map(async ({ code, pass, detail }) => {
      const response = await fetch(`/shots/${shotId}/files?${new URLSearchParams({ code, detail, ...(pass === null ? {} : { pass }) }).toString()}`);
      if (!response.ok) throw new Error('The list of files could not be had.');
      return response.text();
    });
    return (await Promise.all(lists)).join('\n');
  }

  const RENDERS: ReadonlySet<string> = new Set(['render', 'again', 'decide']);
  /** What puts it right where that is a matter of names and places. */
  const MENDS: Partial<Record<string, keyof typeof MEND_TITLES>> = {
    'wrong-name': 'rename',
    'wrong-padding': 'rename',
    'duplicate-number': 'rename',
    'unexpected-frame': 'trim',
    'stray-file': 'trim',
    'loop-repeat': 'trim',
    'unsettled-start': 'trim',
    'missing-frame': 'patch',
    'missing-pass': 'patch',
    truncated: 'patch',
    corrupt: 'patch',
    'empty-file': 'patch',
    'unwritten-file': 'patch',
    'nan-pixels': 'patch',
    'missing-region': 'patch',
    'wrong-format': 'convert',
    'wrong-depth': 'convert',
    'wrong-compression': 'convert',
    'wrong-alpha': 'convert',
    'wrong-rate': 'conform',
  };
  const MEND_TITLES = { rename: 'Rename', trim: 'Set aside', patch: 'Patch', convert: 'Convert', conform: 'Conform' } as const;
  /** The frames of these are named: otherwise only what was not ordered would go. */
  const NAMES_FRAMES: ReadonlySet<string> = new Set(['loop-repeat', 'unsettled-start', 'missing-frame', 'truncated', 'corrupt', 'wrong-format', 'wrong-depth']);
  const mendAddress = (kind: string) => {
    const query = new URLSearchParams({ do: kind });
    if (NAMES_FRAMES.has(finding.code)) {
      query.set('frames', frameText);
      if (entry.findings.length === 1 && finding.pass !== null) query.set('pass', finding.pass);
    }
    return `/shots/${shotId}/mend?${query.toString()}`;
  };
  const mend = $derived(finding.waiver ? undefined : MENDS[finding.code]);

  const isToRender = ({ pass }: { readonly pass: string | null }) => pass === null || !denoised.has(pass);
  /** What a render may put right: what it is said to, and what somebody has to decide on. */
  const canRender = $derived(frameText !== '' && !finding.waiver && finding.severity !== 'note' && RENDERS.has(findingCodes[finding.code].action));
  const [toRender, toDenoise] = $derived([entry.findings.filter(isToRender), entry.findings.filter((one) => !isToRender(one))]);
  /** What is said to put it right is another thing where no renderer writes the pass. */
  const isDenoised = $derived(toRender.length === 0 && isMendedByRendering(finding.code));

  const SHOWN_FILES = 4;

  function seenOf(file: string): { message: string; shouldBe: string | null } {
    const seen = entry.findings.flatMap((one) => one.evidence).find((candidate) => candidate.file === file);
    return { message: seen?.message ?? '', shouldBe: seen?.shouldBe ?? null };
  }

  const mark = $derived(stateOfFinding(finding, finding.waiver !== null));
  const evidence = $derived(files.slice(0, SHOWN_FILES).map((file) => ({ file, ...seenOf(file) })));
  const guide = $derived(findingGuide[finding.code]);
  /** Two pictures to compare: the first file that has something beside it. */
  const pair = $derived(
    entry.findings.flatMap((one) => one.evidence.filter((seen) => seen.beside !== undefined).map((seen) => ({ pass: one.pass, ...seen })))[0] ?? null,
  );
  const picture = (path: string) => `/shots/${shotId}/still?${new URLSearchParams({ pass: pair?.pass ?? '', path }).toString()}`;
  let pairFails = $state(false);
  const proposals = $derived(entry.findings.flatMap((one) => one.evidence).filter((seen) => seen.shouldBe !== undefined));
  const proposalText = $derived(proposals.map((seen) => `${seen.file}\t${seen.shouldBe}`).join('\n'));

  /** What is said of a file, unless the finding has said it, the file before has, or the proposal does. */
  function evidenceOf(place: number): string {
    const { message, shouldBe } = evidence[place];
    return shouldBe !== null || finding.message.includes(message) || message === evidence[place - 1]?.message ? '' : message;
  }

  /** What can be done with a chosen finding must be in sight, wherever the list was scrolled to. */
  function keepInSight(row: HTMLElement) {
    if (chosen) row.scrollIntoView({ block: 'nearest' });
  }
</script>

<li class={['relative border-b border-line', chosen && 'bg-hover']} data-code={finding.code} {@attach keepInSight}>
  {#if chosen}<span class="absolute inset-y-0 left-0 w-[3px] bg-mint"></span>{/if}
  <button
    type="button"
    class="flex w-full gap-3 px-4 pt-2 pb-2 text-left hover:bg-hover focus-visible:-outline-offset-2"
    onclick={onchoose}
    aria-expanded={chosen}
  >
    <span class="mt-0.5"><StateMark state={mark} /></span>
    <span class="min-w-0 flex-1">
      <span class="flex items-baseline justify-between gap-3">
        <span class="font-bold">{findingCodes[finding.code].title}</span>
        <span class="truncate text-[13px] text-soft">{passesOf(entry, passCount)}</span>
      </span>
      {#if frameText}<span class="figure line-clamp-2 text-[14px]"><FrameList text={frameText} /></span>{/if}
      <span class={['text-[13px] break-words text-soft', chosen ? 'block' : 'line-clamp-2']}>{finding.message}</span>
      {#if frameText}<span class="mt-1.5 block"><MiniStrip all={frames} frames={finding.frames} {mark} /></span>{/if}
    </span>
  </button>
  {#if chosen}
    <div class="space-y-2 pr-4 pb-3 pl-[42px]">
      {#if pair && !pairFails}
        <figure class="grid grid-cols-2 gap-2">
          <div>
            <img
              src={picture(pair.beside!)}
              alt="For comparison: {pair.beside}"
              class="aspect-video w-full bg-ground object-contain"
              onerror={() => (pairFails = true)}
            />
          </div>
          <div>
            <img
              src={picture(pair.file)}
              alt="Found: {pair.file}"
              class="aspect-video w-full bg-ground object-contain outline outline-2 outline-odd"
              onerror={() => (pairFails = true)}
            />
          </div>
          <figcaption class="col-span-2 text-[12.5px] text-soft">Left for comparison, right what was found.</figcaption>
        </figure>
      {/if}
      {#if evidence.length > 0}
        <ul class="space-y-1 text-[13px]">
          {#each evidence as seen, place (seen.file)}
            {@const told = evidenceOf(place)}
            <li>
              <span class="figure block break-all text-[12.5px]">{seen.file}</span>{#if told}<span class="block">{told}</span>{/if}{#if seen.shouldBe}<span
                  class="figure block break-all text-[12.5px] text-mint">should be {seen.shouldBe}</span
                >{/if}
            </li>
          {/each}
          {#if fileCount > SHOWN_FILES}<li class="text-soft">and {counted(fileCount - SHOWN_FILES, 'more file')}</li>{/if}
        </ul>
      {/if}
      <p class="text-[13px] text-soft">
        {guide.why}
        <span class="text-ink">{isDenoised ? 'It is denoised from another pass, not rendered: have these frames denoised again.' : guide.remedy}</span>
      </p>
      {#if finding.waiver}
        <p class="text-[13px]">Waived by <b>{finding.waiver.person}</b>: {finding.waiver.reason}</p>
      {/if}
      <div class="flex flex-wrap gap-2">
        {#if canRender && toRender.length > 0}<RenderThese
            {shotId}
            entries={toRender.map((one) => ({ pass: one.pass ?? '', frames: String(one.frames) }))}
            reason={findingCodes[finding.code].title}
            origin={finding.code}
          />{/if}
        {#if canRender && toDenoise.length > 0}<a class="button button-small" href="/shots/{shotId}/assay/denoise">Denoise…</a>{/if}
        {#if mend}<a class="button button-small" href={mendAddress(mend)}>{MEND_TITLES[mend]}…</a>{/if}
        {#if frameText}<CopyButton small text={frameText} label="Copy range" />{/if}
        {#if files.length > 0}<CopyButton small text={allFiles} label={fileCount === 1 ? 'Copy file' : 'Copy files'} />{/if}
        {#if proposals.length > 0}<CopyButton small text={proposalText} label={proposals.length === 1 ? 'Copy proposal' : 'Copy proposals'} />{/if}
        {#if finding.waiver}
          <form method="POST" action="?/withdraw" use:enhance>
            {#each entry.findings as one (one.pass)}{#if one.waiver}<input type="hidden" name="waiver" value={one.waiver.id} />{/if}{/each}
            <button type="submit" class="button button-small">Withdraw</button>
          </form>
        {:else if finding.severity !== 'note'}
          <button type="button" class="button button-small" onclick={onwaive}>Waive…</button>
        {/if}
      </div>
    </div>
  {/if}
</li>
