<!-- A state's shape at the size of a letter: the same shapes as in the ribbon. -->
<script lang="ts">
  import type { FrameState } from '@mint-tally/core';

  let { state, size = 14 }: { state: FrameState | null; size?: number } = $props();
  const id = $props.id();
</script>

<svg width={size} height={size} viewBox="0 0 14 14" aria-hidden="true" class="shrink-0">
  {#if state === 'sound'}
    <rect x="1" y="1" width="12" height="12" fill="var(--sound)" />
  {:else if state === 'missing'}
    <rect x="1.75" y="1.75" width="10.5" height="10.5" fill="none" stroke="var(--bad)" stroke-width="1.5" />
  {:else if state === 'broken'}
    <path d="M1 1H9L4 13H1Z M11 1H13V13H6Z" fill="var(--bad)" />
  {:else if state === 'wrong'}
    <path d="M1 13V10.5L7 1L13 10.5V13Z" fill="var(--bad)" />
  {:else if state === 'odd'}
    <defs>
      <pattern {id} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="2.2" height="4" fill="var(--odd)" />
      </pattern>
    </defs>
    <rect x="1" y="1" width="12" height="12" fill="url(#{id})" />
  {:else if state === 'later'}
    <rect x="1.5" y="1.5" width="11" height="11" fill="none" stroke="var(--soft)" stroke-dasharray="1.5 1.5" />
  {:else if state === 'waived'}
    <circle cx="7" cy="7" r="4.75" fill="none" stroke="var(--waived)" stroke-width="2" />
  {:else}
    <path d="M3 11L11 3" stroke="var(--waived)" stroke-width="1.75" />
  {/if}
</svg>
