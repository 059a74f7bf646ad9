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
    <label class="mt-1.5 flex items-center gap-2"
      ><span class="w-14 text-soft">Where</span><input
        type="range"
        class="min-w-0 flex-1 accent-(--mint)"
        min="0"
        max="1"
        step="0.01"
        bind:value={() => settings.splitAt[0], (share) => (settings.splitAt = [share, settings.splitAt[1]])}
      /></label
    >
    <label class="flex items-center gap-2"
      ><span class="w-14 text-soft">Angle</span><input
        type="range"
        class="min-w-0 flex-1 accent-(--mint)"
        min="-180"
        max="180"
        step="5"
        bind:value={settings.splitAngle}
      /><span class="figure w-[5ch] text-right">{settings.splitAngle}°</span></label
    >
  {:else if settings.compareAs === 'difference'}
    <label class="mt-1.5 flex items-center gap-2"
      ><span class="w-14 text-soft">Times</span><input
        type="range"
        class="min-w-0 flex-1 accent-(--mint)"
        min="0"
        max="10"
        step="1"
        bind:value={() => Math.log2(settings.gain), (power) => (settings.gain = 2 ** power)}
      /><span class="figure w-[5ch] text-right">{settings.gain}</span></label
    >
  {:else if settings.compareAs === 'overlay'}
    <label class="mt-1.5 flex items-center gap-2"
      ><span class="w-14 text-soft">Opacity</span><input
        type="range"
        class="min-w-0 flex-1 accent-(--mint)"
        min="0"
        max="1"
        step="0.05"
        bind:value={settings.opacity}
      /><span class="figure w-[5ch] text-right">{Math.round(settings.opacity * 100)} %</span></label
    >
  {/if}
{/if}
