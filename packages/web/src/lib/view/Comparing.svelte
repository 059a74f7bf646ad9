<!-- What the picture is compared with, and in which way. -->
<script lang="ts">
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { comparisons, type Comparison } from './view-settings.svelte';
  import type { Viewing } from './viewing.svelte';

  let { viewing }: { viewing: Viewing } = $props();

  const view = useShotView();
  const { settings } = $derived(viewing);

  const partners = $derived([
    ['', 'nothing'],
    ['frame:1', 'the next frame'],
    ['frame:-1', 'the frame before'],
    ['frame:5', 'five frames on'],
    ...view.model.lanes.filter((lane) => lane.name !== view.pass).map((lane): [string, string] => [`pass:${lane.name}`, `pass ${lane.name}`]),
  ] as [string, string][]);
  const titles: Record<Comparison, string> = { beside: 'beside', split: 'split', difference: 'differs', overlay: 'over', other: 'other' };
  const hints: Record<Comparison, string> = {
    beside: 'Side by side',
    split: 'One on either side of a line (S)',
    difference: 'What differs (D)',
    overlay: 'One over the other',
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
<Select label="Compare with" labelHidden bind:value={settings.against} options={partners} />
{#if settings.against !== ''}
  <div class="mt-1.5">
    <Segments
      label="Way of comparing"
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
