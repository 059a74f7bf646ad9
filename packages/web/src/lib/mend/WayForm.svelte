<!-- What a kind of mend takes besides its name; sending it shows the preview. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { exrCompressions, FrameSet, parseFrameRange, RangeNotationError, writtenFormats, type MendWish } from '@mint-tally/core';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import FolderDialog from '$lib/folders/FolderDialog.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import type { SubmitFunction } from '@sveltejs/kit';
  import { untrack } from 'svelte';
  import { conversionFor, depthsFor, formatTitles, layerTitles } from './conversion-choices';

  let {
    kind,
    state: shot,
    roots,
    last,
    isBusy,
  }: {
    kind: string;
    state: ShotState;
    roots: readonly { name: string; path: string }[];
    /** What was previewed last of this kind, to go on from. */
    last: MendWish | null;
    isBusy: boolean;
  } = $props();

  const query = page.url.searchParams;
  const begun = untrack(() => last);
  let frames = $state(query.get('frames') ?? (begun && 'frames' in begun ? begun.frames : ''));
  let pass = $state(query.get('pass') ?? (begun && 'passes' in begun ? (begun.passes[0] ?? '') : ''));
  let by: number | undefined = $state(Number(query.get('by')) || undefined);
  let swapped = $state(
    query.get('do') === 'swap' && query.has('pass') ? query.getAll('pass') : untrack(() => shot.brief.passes.slice(0, 2).map(({ name }) => name)),
  );
  let fps = $state(query.get('fps') ?? '25');
  let source = $state(begun?.kind === 'patch' ? { root: begun.root, folder: begun.folder } : null);
  let to = $state(begun?.kind === 'convert' ? { ...begun.to } : untrack(() => conversionFor(shot.brief, pass)));
  let channels = $state(begun?.kind === 'convert' ? begun.to.channels.join(', ') : '');
  let choosing = $state(false);

  const passOptions = $derived([['', 'all passes'], ...shot.brief.passes.map(({ name }) => [name, name] as const)] as const);
  const badRange = $derived.by(() => {
    if (frames.trim() === '') return '';
    try {
      parseFrameRange(frames);
      return '';
    } catch (thrown) {
      if (thrown instanceof RangeNotationError) return thrown.message;
      throw thrown;
    }
  });
  const passes = $derived(pass === '' ? [] : [pass]);
  /** The wish of those kinds that the engine works out. */
  const wish = $derived(
    kind === 'patch'
      ? { kind, root: source?.root ?? '', folder: source?.folder ?? '', frames, passes }
      : { kind, frames, passes, to: { ...to, channels: channels.split(/[\s,]+/).filter(Boolean), into: to.into.replace(/\/+$/, '') } },
  );

  function show() {
    const asked = new URLSearchParams({ do: kind });
    if (kind === 'renumber') asked.set('by', String(by ?? 0));
    else if (kind === 'swap') for (const name of swapped) asked.append('pass', name);
    else if (kind === 'conform') asked.set('fps', fps);
    else {
      if (frames.trim() !== '') asked.set('frames', frames.trim());
      if (pass !== '') asked.set('pass', pass);
    }
    void goto(`?${asked.toString()}`);
  }

  /** A form that was sent is otherwise emptied; what was asked for is what somebody turns a little and asks for again. */
  const keepingWhatIsFilledIn: SubmitFunction =
    () =>
    async ({ update }) => {
      await update({ reset: false });
    };

  /** Frames that people often take out, where the shot has them. */
  const offers = $derived.by(() => {
    const ordered = parseFrameRange(shot.brief.range);
    const numbers = [...ordered];
    const { handles } = shot.brief;
    const loop = shot.findings.find(({ code }) => code === 'loop-repeat');
    const start = shot.findings.find(({ code }) => code === 'unsettled-start');
    return [
      ...(handles ? [['Handles', FrameSet.of([...numbers.slice(0, handles[0]), ...numbers.slice(numbers.length - handles[1])])] as const] : []),
      ...(loop ? [['The repeated last frame', loop.frames] as const] : []),
      ...(start ? [['The start that has not settled', start.frames] as const] : []),
    ];
  });
  const takesFrames = $derived(kind === 'trim' || kind === 'hold' || kind === 'patch' || kind === 'convert');
  const nothingMeans: Record<string, string> = {
    trim: 'besides what was not ordered; empty for nothing else',
    hold: 'empty for all that are missing',
    patch: 'empty for those that are missing or stopped',
    convert: 'empty for all',
  };
</script>

{#snippet rangeAndPass()}
  <div class="w-[250px]">
    <TextField label="Frames" figure bind:value={frames} problem={badRange} placeholder="1001-1048, 1060" />
    <span class="block text-[12.5px] text-soft">{nothingMeans[kind]}</span>
  </div>
  <div class="w-[170px]"><Select label="Pass" bind:value={pass} options={passOptions} /></div>
{/snippet}

{#if kind === 'renumber' || kind === 'swap' || kind === 'conform' || kind === 'trim' || kind === 'hold'}
  <form
    class="mb-3 flex flex-wrap items-start gap-3 border-b border-line pb-3"
    aria-label="What is wanted"
    onsubmit={(event) => {
      event.preventDefault();
      show();
    }}
  >
    {#if takesFrames}{@render rangeAndPass()}{/if}
    {#if kind === 'renumber'}
      <label class="text-soft"
        ><span class="mb-1 block">By so many frames</span><input type="number" class="field figure w-[120px]" step="1" required bind:value={by} /><span
          class="block text-[12.5px]">1000 makes 1 to 1001; -8 counts back</span
        ></label
      >
    {:else if kind === 'swap'}
      <div class="w-[200px]"><Select label="Files of" bind:value={swapped[0]!} options={passOptions.slice(1)} /></div>
      <div class="w-[200px]"><Select label="and of" bind:value={swapped[1]!} options={passOptions.slice(1)} /></div>
    {:else if kind === 'conform'}
      <div class="w-[250px]">
        <TextField label="Frames a second" figure bind:value={fps} />
        <span class="block text-[12.5px] text-soft">now {shot.brief.fps ?? '24'}: frames are dropped or doubled, so that it lasts as long</span>
      </div>
    {/if}
    <button type="submit" class="button mt-[25px]" disabled={badRange !== '' || (kind === 'swap' && (swapped.length < 2 || swapped[0] === swapped[1]))}
      >Preview</button
    >
    {#if kind === 'trim' && offers.length > 0}
      <p class="flex w-full flex-wrap items-center gap-2 text-[13px]">
        {#each offers as [title, set] (title)}
          <button type="button" class="button button-small" onclick={() => ((frames = String(set)), show())}
            >{title} <span class="figure">{String(set)}</span></button
          >
        {/each}
      </p>
    {/if}
  </form>
{:else if kind === 'patch' || kind === 'convert'}
  <form
    method="POST"
    action="?/preview&do={kind}"
    use:enhance={keepingWhatIsFilledIn}
    class="mb-3 flex flex-wrap items-start gap-3 border-b border-line pb-3"
    aria-label="What is wanted"
  >
    <input type="hidden" name="wish" value={JSON.stringify(wish)} />
    {#if kind === 'patch'}
      <div class="w-[250px]">
        <span class="mb-1 block text-soft">Folder of the re-render</span>
        <button type="button" class="button w-full justify-start overflow-hidden" onclick={() => (choosing = true)}
          ><span class="figure truncate">{source ? `${source.root}${source.folder ? `/${source.folder}` : ''}` : 'Choose a folder…'}</span></button
        >
        <span class="block text-[12.5px] text-soft">a render again, a machine’s copy, a denoised stretch</span>
      </div>
    {/if}
    {@render rangeAndPass()}
    {#if kind === 'convert'}
      <div class="w-[120px]">
        <Select label="Format" bind:value={to.format} options={writtenFormats.map((format) => [format, formatTitles[format]] as const)} />
      </div>
      <div class="w-[150px]"><Select label="Depth" bind:value={to.depth} options={depthsFor(to.format)} /></div>
      {#if to.format === 'exr'}
        <div class="w-[110px]"><Select label="Packing" bind:value={to.compression} options={exrCompressions.map((name) => [name, name] as const)} /></div>
        <div class="w-[210px]"><Select label="Layers" bind:value={to.layers} options={layerTitles} /></div>
      {:else if to.format === 'jpeg'}
        <label class="text-soft"
          ><span class="mb-1 block">Quality</span><input type="number" class="field figure w-[90px]" min="1" max="100" bind:value={to.quality} /></label
        >
      {/if}
      <div class="w-[180px]">
        <Select
          label="Alpha"
          bind:value={to.alpha}
          options={[
            ['same', 'as it is'],
            ['premultiplied', 'premultiplied'],
            ['straight', 'straight'],
            ['none', 'left away'],
          ]}
        />
      </div>
      <div class="w-[150px]">
        <Select
          label="Codes stand for light by"
          bind:value={to.curve}
          options={[
            ['srgb', 'sRGB'],
            ['rec709', 'Rec. 709'],
            ['linear', 'linear'],
          ]}
        />
      </div>
      <div class="w-[170px]"><TextField label="Channels" figure bind:value={channels} placeholder="all" /></div>
      <div class="w-[250px]">
        <TextField label="Into the folder" figure bind:value={to.into} placeholder="in place" />
        <span class="block text-[12.5px] text-soft">in place the originals are set aside; in a folder of its own they stay</span>
      </div>
    {/if}
    <button type="submit" class="button mt-[25px]" disabled={isBusy || badRange !== '' || (kind === 'patch' && source === null)}>Preview</button>
  </form>
  {#if kind === 'patch'}
    <FolderDialog bind:open={choosing} title="Which folder do the frames come from?" {roots} onchoose={(root, folder) => (source = { root, folder })} />
  {/if}
{/if}
