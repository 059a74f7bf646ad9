<!-- An entry that holds a number, with its label above it, or spoken alone where the place says what it is. -->
<script lang="ts">
  import type { HTMLInputAttributes } from 'svelte/elements';

  let {
    value = $bindable(),
    label,
    labelHidden = false,
    class: extra = '',
    ...rest
  }: { value?: number; label: string; labelHidden?: boolean } & Omit<HTMLInputAttributes, 'value' | 'type'> = $props();
</script>

{#snippet entry()}
  <input type="number" class={['field figure', extra]} aria-label={labelHidden ? label : undefined} bind:value {...rest} />
{/snippet}

{#if labelHidden}{@render entry()}{:else}<label class="block min-w-0"><span class="mb-1 block text-soft">{label}</span>{@render entry()}</label>{/if}
