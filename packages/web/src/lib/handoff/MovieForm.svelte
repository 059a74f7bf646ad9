<!-- What a review movie shows, and how it is packed. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { extensionOfCodec, type MovieCodec } from '@mint-tally/core';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import FolderDialog from '$lib/folders/FolderDialog.svelte';
  import LookFields from './LookFields.svelte';
  import RootChoice from './RootChoice.svelte';

  let {
    state: shot,
    roots,
    allRoots,
    proposedRoot,
    proposedMovie,
    fields,
  }: {
    state: ShotState;
    roots: readonly { name: string; path: string }[];
    /** Also those that may only be read. */
    allRoots: readonly { name: string; path: string }[];
    proposedRoot: string;
    proposedMovie: string;
    fields: Readonly<Record<string, string>>;
  } = $props();

  const CODECS: readonly (readonly [MovieCodec, string])[] = [
    ['h264', 'H.264 in MP4: plays everywhere'],
    ['hevc', 'HEVC in MP4: smaller'],
    ['vp9', 'VP9 in WebM'],
    ['av1', 'AV1 in WebM: smallest'],
    ['prores', 'ProRes in MOV: for editing'],
    ['gif', 'GIF: a quick look'],
    ['webp', 'animated WebP: a quick look'],
  ];
  let codec = $state<MovieCodec>('h264');
  let pass = $state('');
  let otherPass = $state('');
  let typedFile: string | null = $state(null);
  let typedRoot: string | null = $state(null);
  let quality = $state(80);
  let isByBits = $state(false);

  /** Another version's folder, which stands beside instead of the shot's own. */
  let other: { root: string; folder: string } | null = $state(null);
  let choosing = $state(false);
  const isBeside = $derived(other !== null || otherPass !== '');

  const passes = $derived(shot.brief.passes.map(({ name }) => [name, name] as const));
  const usual = $derived((shot.brief.passes.find(({ role }) => role === 'beauty') ?? shot.brief.passes[0]!).name);
  const isAnimation = $derived(codec === 'gif' || codec === 'webp');
  const knowsBits = $derived(codec === 'h264' || codec === 'hevc' || codec === 'vp9' || codec === 'av1');
</script>

<form
  method="POST"
  action="?/movie"
  class="mt-3 space-y-3"
  aria-label="Review movie"
  use:enhance={() =>
    async ({ result, update }) => {
      if (result.type === 'success') typedFile = typedRoot = null;
      await update({ reset: false });
    }}
>
  <div class="grid grid-cols-2 gap-3">
    <Select label="Pass" name="pass" bind:value={() => pass || usual, (value) => (pass = value)} options={passes} />
    <TextField label="Frames" name="range" figure placeholder={shot.brief.range} problem={fields.range} />
  </div>
  <Select label="Packed as" name="codec" bind:value={codec} options={CODECS} />
  <div class="grid grid-cols-2 gap-3">
    {#if knowsBits && isByBits}
      <TextField label="Megabits a second" name="bitrate" figure inputmode="decimal" value="20" problem={fields.bitrate} />
    {:else}
      <label class="block min-w-0"
        ><span class="mb-1 flex justify-between text-soft">Quality<span class="figure">{quality}</span></span><input
          type="range"
          name="quality"
          min="0"
          max="100"
          class="w-full accent-(--mint)"
          bind:value={quality}
        /></label
      >
    {/if}
    {#if knowsBits}<label class="flex items-center gap-1.5 self-end pb-1.5"><input type="checkbox" bind:checked={isByBits} />by a rate of bits</label>{/if}
  </div>
  <RootChoice {roots} proposed={proposedRoot} bind:chosen={typedRoot} />
  <TextField
    label="File"
    name="file"
    figure
    bind:value={() => typedFile ?? `${proposedMovie}.${extensionOfCodec[codec]}`, (value) => (typedFile = value)}
    problem={fields.file}
  />
  <div class="flex flex-wrap gap-x-4 gap-y-1">
    <label class="flex items-center gap-1.5"><input type="checkbox" name="burnIn" checked />shot, frame and time in the picture</label>
    {#if shot.brief.sound && !isAnimation}<label class="flex items-center gap-1.5"><input type="checkbox" name="withSound" checked />the brief’s sound</label
      >{/if}
  </div>
  <details class="border-t border-line pt-2">
    <summary class="cursor-pointer">Look, size, comparing</summary>
    <div class="mt-2 space-y-3">
      <LookFields {fields} />
      <div class="grid grid-cols-2 gap-3">
        <TextField label="Width" name="width" figure inputmode="numeric" placeholder="its own" problem={fields.width} />
        <TextField label="Height" name="height" figure inputmode="numeric" placeholder="its own" problem={fields.height} />
      </div>
      <TextField label="A line in the picture" name="note" problem={fields.note} />
      <div class="grid grid-cols-2 gap-3">
        <Select label="Beside it" name="otherPass" bind:value={otherPass} options={[['', other ? 'the same pass' : 'nothing'], ...passes]} />
        {#if isBeside}<Select
            label="How"
            name="arrange"
            value="beside"
            options={[
              ['beside', 'side by side'],
              ['split', 'a half each'],
            ]}
          />{/if}
      </div>
      <p class="flex flex-wrap items-center gap-2 text-[13px]">
        {#if other}
          <span class="figure [overflow-wrap:anywhere]">{other.root}{other.folder ? `/${other.folder}` : ''}</span>
          <input type="hidden" name="otherRoot" value={other.root} /><input type="hidden" name="otherFolder" value={other.folder} />
          <button type="button" class="button button-small" onclick={() => (other = null)}>This version’s folder again</button>
        {/if}
        <button type="button" class="button button-small" onclick={() => (choosing = true)}>Another version’s folder…</button>
      </p>
      {#if !isAnimation && codec !== 'prores'}<label class="flex items-center gap-1.5"
          ><input type="checkbox" name="everyFrameKey" />every frame a key frame: larger, and steps freely</label
        >{/if}
    </div>
  </details>
  <button type="submit" class="button button-main" disabled={roots.length === 0 || shot.count === null}>Make movie</button>
  <p class="text-[13px] text-soft">
    {shot.count === null ? 'Count the shot first.' : 'What View shows, frame by frame; missing frames as slates. It is read back before it gets its name.'}
  </p>
</form>

<FolderDialog
  bind:open={choosing}
  title="Which folder stands beside?"
  text="One that is laid out like this shot’s: another version of it."
  roots={allRoots}
  onchoose={(root, folder) => (other = { root, folder })}
/>
