<!-- One figure of a pass along the shot, small enough for a line of a report, with the ordered target. -->
<script lang="ts">
  let { values, most, target }: { values: readonly (number | null)[]; /** At the top of the line. */ most: number; target: number | null } = $props();

  const WIDTH = 240;
  const HEIGHT = 34;
  const y = (value: number) => HEIGHT - 2 - (most > 0 ? value / most : 0) * (HEIGHT - 4);
  const x = (i: number) => (values.length < 2 ? WIDTH / 2 : 1 + (i / (values.length - 1)) * (WIDTH - 2));
  /** Stretches between frames of which nothing is known. */
  const stretches = $derived.by(() => {
    const found: string[][] = [[]];
    values.forEach((value, i) => (value === null ? found.push([]) : found.at(-1)!.push(`${x(i).toFixed(1)},${y(value).toFixed(1)}`)));
    return found.filter((points) => points.length > 0);
  });
</script>

<svg viewBox="0 0 {WIDTH} {HEIGHT}" class="h-[34px] w-[240px] max-w-full print:h-[20px] print:w-[140px]" aria-hidden="true">
  <line x1="0" x2={WIDTH} y1={HEIGHT - 1} y2={HEIGHT - 1} class="stroke-line" />
  {#if target !== null && target <= most}<line x1="0" x2={WIDTH} y1={y(target)} y2={y(target)} class="stroke-ink" stroke-dasharray="4 3" />{/if}
  {#each stretches as points (points[0])}
    {#if points.length === 1}<circle cx={points[0]!.split(',')[0]} cy={points[0]!.split(',')[1]} r="1.5" class="fill-ink" />
    {:else}<polyline points={points.join(' ')} class="fill-none stroke-ink" stroke-width="1.3" />{/if}
  {/each}
</svg>
