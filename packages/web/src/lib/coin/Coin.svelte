<!--
  The emblem of a shot: one segment a gate, in the gates' order from the top. A closed gate is a
  full segment, a warned or waived one is parted, an open one is an outline, an unmeasured one is thin.
  The middle is stamped when the shot was handed over.
-->
<script lang="ts">
  import type { Gate } from '@mint-tally/core';
  import { gateStates } from './gates';
  import { OUTLINE, strokesOf } from './segments';

  let { gates, stamped = false, size = 44 }: { gates: readonly Pick<Gate, 'name' | 'state'>[]; stamped?: boolean; size?: number } = $props();

  const strokes = $derived(strokesOf(gates.map(({ state }) => state)));
  const label = $derived(gates.map((gate) => `${gate.name} ${gateStates[gate.state].title}`).join(', '));
</script>

<svg width={size} height={size} viewBox="0 0 44 44" role="img" aria-label="Gates: {label}{stamped ? '; handed over' : ''}" class="shrink-0">
  {#each strokes as { paint, d } (paint)}
    {#if paint === OUTLINE}<path {d} fill="none" stroke="var(--bad)" stroke-width="1.6" />{:else}<path {d} fill="var(--{paint})" />{/if}
  {/each}
  {#if stamped}
    <circle cx="22" cy="22" r="10.5" fill="var(--mint)" />
    <path d="M17 22.4L20.6 26L27.2 18.8" fill="none" stroke="var(--ground)" stroke-width="2.4" stroke-linecap="round" stroke-linejoin="round" />
  {/if}
</svg>
