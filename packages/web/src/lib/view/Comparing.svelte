<!-- What the picture is compared with, and in which way. -->
<script lang="ts">
  import * as z from 'zod';
  import { askServer } from '$lib/asking/ask-server';
  import FolderDialog from '$lib/folders/FolderDialog.svelte';
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { otherSequenceSchema, sayOther, type Alignment, type OtherSequence } from './other-folder';
  import { comparisons, type Comparison } from './view-settings.svelte';
  import type { Viewing } from './viewing.svelte';

  let { viewing, roots }: { viewing: Viewing; roots: readonly { name: string; path: string }[] } = $props();

  const view = useShotView();
  const { settings } = $derived(viewing);

  const partners = $derived([
    ['', 'nothing'],
    ['frame:1', 'the next frame'],
    ['frame:-1', 'the frame before'],
    ['frame:5', 'five frames on'],
    ...(settings.other ? [['other', sayOther(settings.other)]] : []),
    ['choose', 'another folder, or a still …'],
    ...view.model.lanes.filter((lane) => lane.name !== view.pass).map((lane): [string, string] => [`pass:${lane.name}`, `pass ${lane.name}`]),
  ] as [string, string][]);
  let choosing = $state(false);
  /** A folder in which something has still to be chosen, with what can be. */
  let place = $state.raw<{ root: string; folder: string; sequences: readonly OtherSequence[] } | null>(null);
  let failure = $state('');
  const sayCount = ({ count, first, last, isStill }: OtherSequence) => (isStill ? 'a still' : `${first}-${last}, ${count} frames`);

  async function lookInto(root: string, folder: string) {
    const answer = await askServer(`${viewing.address}/other?${new URLSearchParams({ root, folder }).toString()}`, 'GET');
    failure = answer.ok ? '' : answer.refused;
    if (!answer.ok) return;
    const sequences = z.array(otherSequenceSchema).parse(answer.value);
    place = { root, folder, sequences };
    if (sequences.length === 1) choose(sequences[0]!.name);
  }

  function choose(name: string) {
    const sequence = place?.sequences.find((one) => one.name === name);
    if (!place || !sequence) return;
    settings.other = { root: place.root, folder: place.folder, sequence };
    settings.against = 'other';
    place = null;
  }

  function chooseAgainst(against: string) {
    if (against === 'choose') choosing = true;
    else settings.against = against;
  }

  const aligned: readonly (readonly [Alignment, string, string])[] = [
    ['number', 'number', 'Frames of one number stand beside each other'],
    ['first', 'first', 'The first frames of both stand beside each other'],
    ['offset', 'offset', 'So many frames on'],
  ];
  const titles: Record<Comparison, string> = { beside: 'beside', split: 'split', difference: 'differs', overlay: 'over', behind: 'behind', other: 'other' };
  const hints: Record<Comparison, string> = {
    beside: 'Side by side',
    split: 'One on either side of a line (S)',
    difference: 'What differs (D)',
    overlay: 'One over the other',
    behind: 'Seen through the alpha of this one',
    other: 'The other one alone (X)',
  };
</script>

{#snippet slider(label: string, least: number, most: number, step: number, value: number, set: (value: number) => void, says = '')}
  <label class="mt-1 flex items-center gap-2"
    ><span class="w-14 text-soft">{label}</span><input
      type="range"
      class="min-w-0 flex-1 accent-(--mint)"
      min={least}
      max={most}
      {step}
      bind:value={() => value, set}
    /><span class="figure w-[5ch] text-right">{says}</span></label
  >
{/snippet}

<h2>Compare with</h2>
<Select label="Compare with" labelHidden bind:value={() => settings.against, chooseAgainst} options={partners} />
{#if failure}<p class="mt-1 text-bad" role="alert">{failure}</p>{/if}
{#if place}
  {#if place.sequences.length === 0}<p class="mt-1 text-soft">{place.folder || place.root} holds no pictures.</p>
  {:else}
    <div class="mt-1.5">
      <Select
        label="What of {place.folder || place.root}"
        bind:value={() => '', choose}
        options={[
          ['', `choose one of ${place.sequences.length}`],
          ...place.sequences.map((one): [string, string] => [one.name, `${one.name}, ${sayCount(one)}`]),
        ]}
      />
    </div>
  {/if}
{/if}
{#if settings.against === 'other' && settings.other}
  {#if !settings.other.sequence.isStill}
    <div class="mt-1.5 flex flex-wrap items-center gap-2">
      <span class="text-soft">by</span>
      <Segments label="Aligned by" value={settings.align} options={aligned} onchoose={(one) => (settings.align = one)} />
      {#if settings.align === 'offset'}
        <input
          type="number"
          class="field figure w-[70px] !py-0.5"
          aria-label="Frames on"
          value={settings.alignOffset}
          oninput={(event) => Number.isInteger(event.currentTarget.valueAsNumber) && (settings.alignOffset = event.currentTarget.valueAsNumber)}
        />
      {/if}
    </div>
  {/if}
  <p class="mt-1 break-words text-soft">
    <span class="figure">{viewing.pictures.partnersOf(viewing.course.columns)} of {viewing.course.count}</span> frames have a partner ({sayCount(
      settings.other.sequence,
    )})
  </p>
{/if}
{#if settings.against !== ''}
  <div class="mt-1.5">
    <Segments
      label="Way of comparing"
      inRowsOf={3}
      value={settings.compareAs}
      options={comparisons.map((one): [Comparison, string, string] => [one, titles[one], hints[one]])}
      onchoose={(one) => (settings.compareAs = one)}
    />
  </div>
  {#if settings.compareAs === 'split'}
    {@render slider('Where', 0, 1, 0.01, settings.splitAt[0], (share) => (settings.splitAt = [share, settings.splitAt[1]]))}
    {@render slider('Angle', -180, 180, 5, settings.splitAngle, (angle) => (settings.splitAngle = angle), `${settings.splitAngle}°`)}
  {:else if settings.compareAs === 'difference'}
    {@render slider('Times', 0, 10, 1, Math.log2(settings.gain), (power) => (settings.gain = 2 ** power), String(settings.gain))}
  {:else if settings.compareAs === 'overlay'}
    {@render slider('Opacity', 0, 1, 0.05, settings.opacity, (opacity) => (settings.opacity = opacity), `${Math.round(settings.opacity * 100)} %`)}
  {/if}
{/if}
<FolderDialog bind:open={choosing} title="Which folder is it compared with?" {roots} onchoose={(root, folder) => void lookInto(root, folder)} />
