<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Copy from '@lucide/svelte/icons/copy';

  let {
    text,
    label,
    small = false,
    mark = false,
  }: {
    text: string | (() => Promise<string>);
    label: string;
    small?: boolean;
    /** Only the sign shows; the label is for those who hear it. */ mark?: boolean;
  } = $props();

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

<button
  type="button"
  class={['button', small && 'button-small', mark && 'px-1.5']}
  onclick={copy}
  aria-label={mark ? label : undefined}
  title={typeof text === 'string' && text.length < 200 ? text : mark ? label : undefined}
>
  {#if outcome === 'copied'}<Check size={14} aria-hidden="true" />{#if !mark}Copied{/if}
  {:else if outcome === 'failed'}Could not be copied
  {:else}<Copy size={14} aria-hidden="true" />{#if !mark}{label}{/if}{/if}
</button>
<span class="sr-only" role="status">{outcome === 'copied' ? `${label}: copied` : ''}</span>
