<!-- A labelled entry with what is wrong with it told right below. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { HTMLInputAttributes } from 'svelte/elements';

  let {
    value = $bindable(''),
    label,
    problem = '',
    field = '',
    figure = false,
    hint,
    ...rest
  }: {
    value?: string;
    label: string;
    problem?: string;
    /** The brief's name for the entry, for whoever looks for its problem. */
    field?: string;
    /** Whether it holds numbers, names or paths, which are set in the tabular face. */
    figure?: boolean;
    /** Stands at the right of the label. */
    hint?: Snippet;
  } & Omit<HTMLInputAttributes, 'value'> = $props();

  const id = $props.id();
</script>

<div class="block min-w-0">
  <div class="mb-1 flex justify-between gap-3 text-soft">
    <label for={id}>{label}</label>
    {#if hint}{@render hint()}{/if}
  </div>
  <input
    {id}
    class={['field', figure && 'figure']}
    spellcheck={figure ? false : undefined}
    bind:value
    aria-invalid={problem !== ''}
    aria-describedby="{id}-problem"
    {...rest}
  />
  <span id="{id}-problem" class="block text-[13px] text-bad" data-problem={field}>{problem}</span>
</div>
