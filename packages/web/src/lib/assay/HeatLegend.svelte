<!-- What the colours of a heat map stand for. -->
<script lang="ts">
  import { sayFigure } from './figures';
  import { heatBands } from './tiles';

  let { reference, isOrdered }: { reference: number; isOrdered: boolean } = $props();
</script>

<p class="flex flex-wrap items-center gap-x-2 gap-y-1 text-[12px] text-soft">
  <span>{isOrdered ? 'ordered' : 'typical tile'} <span class="figure text-ink">{sayFigure(Number(reference.toPrecision(3)))}</span></span>
  {#each heatBands.slice(1) as { from, colour: [red, green, blue] } (from)}
    <span class="flex items-center gap-1"
      ><span class="inline-block h-3 w-4 border border-line" style="background: rgb({red} {green} {blue})"></span><span class="figure">{from}</span> x</span
    >
  {/each}
</p>
