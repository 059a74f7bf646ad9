<!-- Puts frames on the list of those that are to be rendered again, and leads to where that is done. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { askServer } from '$lib/asking/ask-server';

  let {
    shotId,
    entries,
    reason,
    origin,
    label = 'Render these',
    small = true,
  }: {
    shotId: number;
    /** Passes with their frames, in range notation; an empty pass stands for all. */
    entries: readonly { readonly pass: string; readonly frames: string }[];
    reason: string;
    /** Where they were gathered. */
    origin: string;
    label?: string;
    small?: boolean;
  } = $props();

  let refused = $state('');
  let isAsking = $state(false);

  async function list() {
    isAsking = true;
    const answer = await askServer(`/shots/${shotId}/mend/list`, 'POST', { entries, reason, origin });
    isAsking = false;
    refused = answer.ok ? '' : answer.refused;
    if (answer.ok) await goto(`/shots/${shotId}/mend?do=list`);
  }
</script>

<button
  type="button"
  class={['button', small && 'button-small']}
  disabled={isAsking}
  onclick={list}
  title="Puts them on the list of what is to be rendered again">{label}…</button
>
{#if refused}<span class="text-[13px] text-bad" role="alert">{refused}</span>{/if}
