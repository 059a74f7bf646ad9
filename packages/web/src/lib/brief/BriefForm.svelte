<!-- The brief as a form. What is wrong with an entry is told at its field, while it is typed and when it is saved. -->
<script lang="ts">
  import { parseFrameRange } from '@mint-tally/core';
  import TextField from '$lib/controls/TextField.svelte';
  import CostSection from './CostSection.svelte';
  import type { BriefDraft } from './draft';
  import type { FieldProblems } from './field-problems.svelte';
  import type { Measuring } from './measuring';
  import PassTable from './PassTable.svelte';
  import { sizePresets } from './presets';
  import RangeFields from './RangeFields.svelte';
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

  function choosePreset(index: number) {
    const chosen = sizePresets[index];
    if (!chosen) return;
    draft.width = String(chosen.width);
    draft.height = String(chosen.height);
    draft.pixelAspect = String(chosen.pixelAspect);
    onchange();
  }
</script>

<div class="space-y-2" oninput={onchange}>
  <div class="grid grid-cols-[180px_100px_minmax(0,1fr)] gap-x-3">
    <TextField label="Shot" bind:value={draft.shot} {...entry('shot')} />
    <TextField label="Version" figure bind:value={draft.version} placeholder="v001" {...entry('version')} />
    <TextField label="What it is (a note for people)" bind:value={draft.note} maxlength={500} />
  </div>
  <RangeFields bind:draft {problems} />
  <div class="grid grid-cols-[110px_72px_72px_minmax(0,1fr)_minmax(0,2fr)_110px] gap-x-3">
    <TextField
      label="Cut lasts"
      figure
      bind:value={draft.duration}
      placeholder="4 s"
      title="How long the cut is to be; the range without its handles is held against it"
      {...entry('duration')}
    />
    <TextField label="Head" figure bind:value={draft.handleHead} placeholder="0" title="Handle: extra frames before the cut" {...entry('handles.0')} />
    <TextField
      label="Tail"
      figure
      bind:value={draft.handleTail}
      placeholder="0"
      title="Handle: extra frames behind the cut"
      problem={problems.shown('handles.1') || problems.shown('handles')}
      field="handles"
      onblur={entry('handles').onblur}
    />
    <TextField label="Test frames" figure bind:value={draft.test} placeholder="1001-1096x24" {...entry('test')} />
    <SoundField bind:draft {place} {onchange} />
    <label class="flex items-center gap-2 pt-[30px] self-start"><input type="checkbox" class="accent-(--mint)" bind:checked={draft.loop} />It loops</label>
  </div>
  <div class="grid grid-cols-[minmax(0,1fr)_80px_80px_90px_80px_132px_76px_86px_76px] gap-x-3">
    <label class="block min-w-0"
      ><span class="mb-1 block text-soft">Size</span>
      <select class="field" value={preset} onchange={(event) => choosePreset(Number(event.currentTarget.value))}>
        <option value={-1}>other</option>
        {#each sizePresets as { title }, index (title)}<option value={index}>{title}</option>{/each}
      </select>
    </label>
    <TextField label="Width" figure bind:value={draft.width} inputmode="numeric" placeholder="any" {...entry('resolution.0')} />
    <TextField label="Height" figure bind:value={draft.height} inputmode="numeric" placeholder="any" {...entry('resolution.1')} />
    <TextField label="Pixel aspect" figure bind:value={draft.pixelAspect} inputmode="decimal" placeholder="any" {...entry('pixelAspect')} />
    <TextField label="Scale, %" figure bind:value={draft.scale} inputmode="decimal" placeholder="100" {...entry('scale')} />
    <TextField label="Crop x y w h" figure bind:value={draft.crop} placeholder="none" {...entry('crop')} />
    <TextField label="Samples" figure bind:value={draft.samples} inputmode="numeric" placeholder="any" {...entry('sampling.samples')} />
    <TextField label="s a frame" figure bind:value={draft.secondsPerFrame} inputmode="decimal" placeholder="any" {...entry('sampling.secondsPerFrame')} />
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
  <PassTable bind:draft {problems} {onchange} />
  <CostSection bind:draft {problems} {frames} {measuring} {onchange} />
</div>
