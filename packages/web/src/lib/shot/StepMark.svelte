<script lang="ts">
  import type { StepMark } from './steps';

  let { mark }: { mark: StepMark } = $props();
</script>

<svg width="10" height="10" viewBox="0 0 10 10" aria-hidden="true">
  {#if mark === 'done'}<circle cx="5" cy="5" r="4.5" fill="var(--mint)" />
  {:else if mark === 'half'}<circle cx="5" cy="5" r="4" fill="none" stroke="var(--odd)" stroke-width="1.2" /><path
      d="M5 0.6A4.4 4.4 0 0 0 5 9.4Z"
      fill="var(--odd)"
    />
  {:else if mark === 'wrong'}<circle cx="5" cy="5" r="4" fill="none" stroke="var(--bad)" stroke-width="1.6" />
  {:else}<circle cx="5" cy="5" r="4" fill="none" stroke="var(--control)" stroke-width="1.2" />{/if}
</svg>
