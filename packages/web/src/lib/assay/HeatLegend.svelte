<!-- What the colours of a heat map stand for: so many times what was ordered, else the typical tile. -->
<script lang="ts">
  import { sayFigure } from './figures';
  import { heatBands, typicalTile } from './tiles';

  let { sigmas, ordered }: { sigmas: readonly (number | null)[]; /** Of the brief; null where it asks for none. */ ordered: number | null } = $props();

  const typical = $derived(typicalTile(sigmas));
  const say = (value: number) => sayFigure(Number(value.toPrecision(3)));
</script>

<p class="flex flex-wrap items-center gap-x-2 gap-y-1 text-[12px] text-soft">
  {#if typical !== null}<span>typical tile <span class="figure text-ink">{say(typical)}</span></span>{/if}
  {#if ordered !== null}<span>ordered <span class="figure text-ink">{say(ordered)}</span></span>{/if}
  {#each heatBands.slice(1) as { from, colour: [red, green, blue] } (from)}
    <span class="flex items-center gap-1"
      ><span class="inline-block h-3 w-4 border border-line" style="background: rgb({red} {green} {blue})"></span><span class="figure">{from}</span> x</span
    >
  {/each}
</p>
