<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Copy from '@lucide/svelte/icons/copy';

  let { text, label, small = false }: { text: string | (() => Promise<string>); label: string; small?: boolean } = $props();

  let outcome: 'none' | 'copied' | 'failed' = $state('none');

  async function copy(event: MouseEvent) {
    event.stopPropagation();
    try {
      await navigator.clipboard.writeText(typeof text === 'string' ? text : await text());
      outcome = 'copied';
    } catch {
      outcome = 'failed';
    }
    setTimeout(() => (outcome = 'none'), 1600);
  }
</script>

<button type="button" class={['button', small && 'button-small']} onclick={copy} title={typeof text === 'string' && text.length < 200 ? text : undefined}>
  {#if outcome === 'copied'}<Check size={14} aria-hidden="true" />Copied{:else if outcome === 'failed'}Could not be copied{:else}<Copy
      size={14}
      aria-hidden="true"
    />{label}{/if}
</button>
<span class="sr-only" role="status">{outcome === 'copied' ? `${label}: copied` : ''}</span>
