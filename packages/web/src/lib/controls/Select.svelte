<!-- A choice of one among a few, with its label above it, or spoken alone where the place says what it is. -->
<script lang="ts" generics="Value extends string">
  import type { HTMLSelectAttributes } from 'svelte/elements';

  let {
    value = $bindable(),
    options,
    label,
    labelHidden = false,
    look = 'field',
    onchange,
    class: extra = '',
    ...rest
  }: {
    value?: Value;
    /** What can be chosen, and how each is called. */
    options: readonly (readonly [value: Value, title: string])[];
    label: string;
    labelHidden?: boolean;
    /** A filter takes no more room than it needs, and stands out while it is set; a quiet choice never does. */
    look?: 'field' | 'filter' | 'quiet';
    /** Told once the new value stands. */
    onchange?: () => void;
  } & Omit<HTMLSelectAttributes, 'value' | 'onchange'> = $props();

  function choose(one: Value | undefined) {
    value = one;
    onchange?.();
  }
</script>

{#snippet choice()}
  <select
    class={[look === 'quiet' ? 'filter' : look, look === 'filter' && value !== '' && 'filter-set', extra]}
    aria-label={labelHidden ? label : undefined}
    {...rest}
    bind:value={() => value, choose}
  >
    {#each options as [one, title] (one)}<option value={one}>{title}</option>{/each}
  </select>
{/snippet}

{#if labelHidden}{@render choice()}{:else}<label class="block min-w-0"><span class="mb-1 block text-soft">{label}</span>{@render choice()}</label>{/if}
