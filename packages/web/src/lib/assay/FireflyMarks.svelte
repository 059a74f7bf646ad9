<!-- Rings around the fireflies of a frame, each as large on the screen however the picture is scaled: in an svg whose pixels are those of the screen, or of the picture. -->
<script lang="ts">
  let {
    places,
    toX,
    toY,
    radius,
  }: {
    places: readonly (readonly [number, number])[];
    /** From the middle of a pixel to where it is drawn. */
    toX: (x: number) => number;
    toY: (y: number) => number;
    radius: number;
  } = $props();
</script>

<g data-fireflies={places.length}>
  {#each places as [x, y], i (i)}
    <circle cx={toX(x + 0.5)} cy={toY(y + 0.5)} r={radius} class="fill-none stroke-black" stroke-width="4" vector-effect="non-scaling-stroke" />
    <circle cx={toX(x + 0.5)} cy={toY(y + 0.5)} r={radius} class="fill-none stroke-[#ffd84a]" stroke-width="2" vector-effect="non-scaling-stroke" />
  {/each}
</g>
