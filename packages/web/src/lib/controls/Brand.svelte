<script lang="ts">
  // The emblem with all its segments closed, at the size of a word.
  const segments = Array.from({ length: 7 }, (_, i) => i * (360 / 7));
</script>

<a href="/" class="flex items-center gap-2.5 font-bold whitespace-nowrap" aria-label="Mint Tally: all shots">
  <svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
    {#each segments as angle (angle)}
      <path d="M11 1.5A9.5 9.5 0 0 1 17 3.6" fill="none" stroke="var(--mint)" stroke-width="3" transform="rotate({angle} 11 11)" />
    {/each}
    <circle cx="11" cy="11" r="2.2" fill="var(--mint)" />
  </svg>
  Mint Tally
</a>
