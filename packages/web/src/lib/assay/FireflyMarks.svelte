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

  /** Of many the rings are smaller, so that the picture is still seen. */
  const MANY = 60;
  const OF_MANY = 0.55;
  const own = $derived(places.length > MANY ? OF_MANY * radius : radius);
</script>

<g data-fireflies={places.length}>
  {#each places as [x, y], i (i)}
    <circle cx={toX(x + 0.5)} cy={toY(y + 0.5)} r={own} class="fill-none stroke-black" stroke-width="3.5" vector-effect="non-scaling-stroke" />
    <circle cx={toX(x + 0.5)} cy={toY(y + 0.5)} r={own} class="fill-none stroke-[#ffd84a]" stroke-width="2" vector-effect="non-scaling-stroke" />
  {/each}
</g>
