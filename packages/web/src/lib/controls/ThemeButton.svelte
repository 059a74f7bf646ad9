<script lang="ts">
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import { untrack } from 'svelte';
  import { page } from '$app/state';

  let theme: 'dark' | 'light' = $state(untrack(() => page.data.theme ?? 'dark'));

  function change() {
    theme = theme === 'dark' ? 'light' : 'dark';
    document.documentElement.dataset.theme = theme;
    void fetch('/theme', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ theme }) });
  }
</script>

<button
  type="button"
  class="rounded p-1.5 text-soft hover:bg-hover hover:text-ink"
  onclick={change}
  aria-label={theme === 'dark' ? 'Light theme' : 'Dark theme'}
  title={theme === 'dark' ? 'Light theme' : 'Dark theme'}
>
  {#if theme === 'dark'}<Sun size={16} aria-hidden="true" />{:else}<Moon size={16} aria-hidden="true" />{/if}
</button>
