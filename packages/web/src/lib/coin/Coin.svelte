<!--
  The emblem of a shot: one segment a gate, in the gates' order from the top. A closed gate is a
  full segment, a warned or waived one is parted, an open one is an outline, an unmeasured one is thin.
  The middle is stamped when the shot was handed over.
-->
<script lang="ts">
  import type { Gate } from '@mint-tally/core';
  import { gateStates } from './gates';

  let { gates, stamped = false, size = 44 }: { gates: readonly Gate[]; stamped?: boolean; size?: number } = $props();

  const GAP = 0.11;
  const point = (radius: number, angle: number) => `${(22 + radius * Math.sin(angle)).toFixed(2)} ${(22 - radius * Math.cos(angle)).toFixed(2)}`;
  const ring = (from: number, to: number, outer: number, inner: number) =>
    `M${point(outer, from)}A${outer} ${outer} 0 0 1 ${point(outer, to)}L${point(inner, to)}A${inner} ${inner} 0 0 0 ${point(inner, from)}Z`;
  const label = $derived(gates.map((gate) => `${gate.name} ${gateStates[gate.state].title}`).join(', '));
</script>

<svg width={size} height={size} viewBox="0 0 44 44" role="img" aria-label="Gates: {label}{stamped ? '; handed over' : ''}" class="shrink-0">
  {#each gates as gate, index (gate.name)}
    {@const step = (2 * Math.PI) / gates.length}
    {@const from = index * step + GAP / 2}
    {@const to = (index + 1) * step - GAP / 2}
    {@const middle = (from + to) / 2}
    {#if gate.state === 'closed'}
      <path d={ring(from, to, 21, 14.5)} fill="var(--mint)" />
    {:else if gate.state === 'warned'}
      <path d={ring(from, middle - 0.05, 21, 14.5)} fill="var(--mint)" /><path d={ring(middle + 0.05, to, 21, 14.5)} fill="var(--odd)" />
    {:else if gate.state === 'waived'}
      <path d={ring(from, to, 21, 18.8)} fill="var(--mint)" /><path d={ring(from, to, 16.7, 14.5)} fill="var(--waived)" />
    {:else if gate.state === 'open'}
      <path d={ring(from + 0.03, to - 0.03, 20.2, 15.3)} fill="none" stroke="var(--bad)" stroke-width="1.6" />
    {:else}
      <path d={ring(from, to, 18.4, 17.1)} fill="var(--control)" />
    {/if}
  {/each}
  {#if stamped}
    <circle cx="22" cy="22" r="10.5" fill="var(--mint)" />
    <path d="M17 22.4L20.6 26L27.2 18.8" fill="none" stroke="var(--ground)" stroke-width="2.4" stroke-linecap="round" stroke-linejoin="round" />
  {/if}
</svg>
