<!-- The brief as a form. What is wrong with an entry is told at its field, while it is typed and when it is saved. -->
<script lang="ts">
  import { parseFrameRange, shownSize } from '@mint-tally/core';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import CostSection from './CostSection.svelte';
  import type { BriefDraft } from './draft';
  import type { FieldProblems } from './field-problems.svelte';
  import type { Measuring } from './measuring';
  import PassTable from './PassTable.svelte';
  import { sizePresets } from './presets';
  import RangeFields from './RangeFields.svelte';
  import RateField from './RateField.svelte';
  import SoundField from './SoundField.svelte';

  let {
    draft = $bindable(),
    problems,
    place,
    measuring = null,
    onchange,
  }: {
    draft: BriefDraft;
    problems: FieldProblems;
    place: { root: string; path: string };
    /** Null while there is no shot yet whose frames could be tested. */
    measuring?: Measuring | null;
    onchange: () => void;
  } = $props();

  const entry = (field: string) => problems.entry(field);
  const frames = $derived.by(() => {
    const { brief } = problems.reading;
    return brief ? parseFrameRange(brief.range).size : 0;
  });
  const preset = $derived(
    sizePresets.findIndex(
      ({ width, height, pixelAspect }) => String(width) === draft.width && String(height) === draft.height && Number(draft.pixelAspect || 1) === pixelAspect,
    ),
  );

  /** The size on a screen of square pixels, where the picture's own are not square. */
  const shown = $derived.by(() => {
    const { brief } = problems.reading;
    if (!brief?.resolution || brief.pixelAspect === undefined || brief.pixelAspect === 1) return '';
    return shownSize(brief.resolution, brief.pixelAspect).join(' x ');
  });

  const rare = $derived([draft.test, draft.cuts, draft.sound, draft.scale, draft.crop, draft.secondsPerFrame, draft.noise]);
  const rareCount = $derived(rare.filter((value) => value !== '' && value !== null).length);
  const rareFields = ['test', 'cuts', 'sound', 'scale', 'crop', 'sampling.secondsPerFrame', 'sampling.noise'];
  let rareOpen = $state(false);
  // What is wrong with an entry must be in sight.
  $effect(() => {
    if (rareFields.some((field) => problems.shown(field) !== '')) rareOpen = true;
  });

  function choosePreset(index: number) {
    const chosen = sizePresets[index];
    if (!chosen) return;
    draft.width = String(chosen.width);
    draft.height = String(chosen.height);
    draft.pixelAspect = String(chosen.pixelAspect);
    onchange();
  }
</script>

<div class="@container space-y-2" oninput={onchange}>
  <div class="grid grid-cols-6 gap-x-3 gap-y-2 @3xl:grid-cols-12">
    <div class="col-span-2 @3xl:col-span-3"><TextField label="Shot" bind:value={draft.shot} {...entry('shot')} /></div>
    <div class="col-span-1 @3xl:col-span-2">
      <TextField label="Version" figure bind:value={draft.version} placeholder="none" {...entry('version')} />
    </div>
    <div class="col-span-3 @3xl:col-span-7"><TextField label="What it is (a note for people)" bind:value={draft.note} maxlength={500} /></div>

    <div class="col-span-3">
      <TextField label="Frame range" figure bind:value={draft.range} placeholder="such as 1001-1096 or 1-100x2,120" {...entry('range')} />
    </div>
    <div class="col-span-2">
      <div class="grid grid-cols-2 gap-x-1.5">
        <TextField
          label="Head"
          figure
          bind:value={draft.handleHead}
          placeholder="none"
          title="Handle: frames of the range before the cut"
          {...entry('handles.0')}
        />
        <TextField
          label="Tail"
          figure
          bind:value={draft.handleTail}
          placeholder="none"
          title="Handle: frames of the range behind the cut"
          problem={problems.shown('handles.1') || problems.shown('handles')}
          field="handles"
          onblur={entry('handles').onblur}
        />
      </div>
    </div>
    <div class="col-span-1 @3xl:col-span-2"><RateField bind:draft {problems} /></div>
    <div class="col-span-3">
      <TextField
        label="Cut lasts"
        figure
        bind:value={draft.duration}
        placeholder="10 s, 240, 00:00:10:00"
        title="How long the cut is to be, as seconds, as frames or as a timecode; the range without its handles is held against it"
        {...entry('duration')}
      />
    </div>
    <label class="col-span-3 flex items-center gap-2 self-start pt-[30px] @3xl:col-span-2"
      ><input type="checkbox" class="accent-(--mint)" bind:checked={draft.loop} />It loops</label
    >

    <RangeFields bind:draft />

    <div class="col-span-2 @3xl:col-span-3">
      <Select
        label="Size"
        bind:value={() => String(preset), (index) => choosePreset(Number(index))}
        options={[['-1', 'other'], ...sizePresets.map(({ title }, index) => [String(index), title] as const)]}
      />
    </div>
    <div class="col-span-1 @3xl:col-span-2">
      <TextField label="Width" figure bind:value={draft.width} inputmode="numeric" placeholder="any" {...entry('resolution.0')} />
    </div>
    <div class="col-span-1 @3xl:col-span-2">
      <TextField label="Height" figure bind:value={draft.height} inputmode="numeric" placeholder="any" {...entry('resolution.1')} />
    </div>
    <div class="col-span-2">
      <TextField label="Pixel aspect" figure bind:value={draft.pixelAspect} inputmode="decimal" placeholder="any" {...entry('pixelAspect')} />
    </div>
    <div class="col-span-2 @3xl:col-span-3">
      <TextField
        label="Minimum samples"
        figure
        bind:value={draft.samples}
        inputmode="numeric"
        placeholder="any"
        title="Files that note fewer samples are told"
        {...entry('sampling.samples')}
      />
    </div>
    {#if shown}<p class="col-span-6 text-[13px] text-soft @3xl:col-span-12">
        Shows <span class="figure text-ink">{shown}</span> on a screen of square pixels.
      </p>{/if}
  </div>

  <details class="group border-t border-line pt-2" open={rareOpen} ontoggle={(event) => (rareOpen = event.currentTarget.open)}>
    <summary class="text-[13px] text-soft hover:text-ink"
      >Test frames, cuts, sound, scale, crop, time and noise of a frame{rareCount > 0 ? ` (${rareCount} said)` : ''}</summary
    >
    <div class="mt-2 grid grid-cols-6 gap-x-3 gap-y-2 @3xl:grid-cols-12">
      <div class="col-span-2 @3xl:col-span-3">
        <TextField label="Test frames" figure bind:value={draft.test} placeholder="such as 1001-1096x24" {...entry('test')} />
      </div>
      <div class="col-span-2 @3xl:col-span-3">
        <TextField
          label="Cuts"
          figure
          bind:value={draft.cuts}
          placeholder="none"
          title="Frames that begin another picture, such as 1049,1073: the picture may change there"
          {...entry('cuts')}
        />
      </div>
      <div class="col-span-6 @3xl:col-span-6"><SoundField bind:draft {place} {onchange} /></div>
      <div class="col-span-1 @3xl:col-span-2">
        <TextField label="Scale, %" figure bind:value={draft.scale} inputmode="decimal" placeholder="100" {...entry('scale')} />
      </div>
      <div class="col-span-2 @3xl:col-span-4">
        <TextField
          label="Crop"
          figure
          bind:value={draft.crop}
          placeholder="none"
          title="The rendered region in pixels, such as 0 0 960 540"
          {...entry('crop')}
        />
      </div>
      <div class="col-span-2 @3xl:col-span-3">
        <TextField
          label="Seconds per frame"
          figure
          bind:value={draft.secondsPerFrame}
          inputmode="decimal"
          placeholder="any"
          title="Frames end by their time: what a frame may take"
          {...entry('sampling.secondsPerFrame')}
        />
      </div>
      <div class="col-span-1 @3xl:col-span-3">
        <TextField
          label="Noise"
          figure
          bind:value={draft.noise}
          inputmode="decimal"
          placeholder="any"
          title="Target of the noise gate"
          {...entry('sampling.noise')}
        />
      </div>
    </div>
  </details>
  <PassTable bind:draft {problems} {onchange} />
  <CostSection bind:draft {problems} {frames} {measuring} {onchange} />
</div>
