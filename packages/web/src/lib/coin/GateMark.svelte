<!-- One gate's state as a shape. -->
<script lang="ts">
  import type { GateState } from '@mint-tally/core';

  let { state }: { state: GateState } = $props();
</script>

<svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
  {#if state === 'closed'}<circle cx="11" cy="11" r="9" fill="var(--mint)" /><path
      d="M7 11.2L10 14.2L15.4 8.4"
      fill="none"
      stroke="var(--ground)"
      stroke-width="2"
    />
  {:else if state === 'warned'}<path d="M11 2A9 9 0 0 1 11 20Z" fill="var(--odd)" transform="translate(1 0)" /><path
      d="M10 2A9 9 0 0 0 10 20Z"
      fill="var(--mint)"
      transform="translate(-1 0)"
    />
  {:else if state === 'waived'}<circle cx="11" cy="11" r="8" fill="none" stroke="var(--mint)" stroke-width="2" /><circle
      cx="11"
      cy="11"
      r="4"
      fill="none"
      stroke="var(--waived)"
      stroke-width="2"
    />
  {:else if state === 'open'}<circle cx="11" cy="11" r="8" fill="none" stroke="var(--bad)" stroke-width="2.2" />
  {:else}<circle cx="11" cy="11" r="8" fill="none" stroke="var(--control)" stroke-width="1.4" stroke-dasharray="2.5 2.5" />{/if}
</svg>
