<!-- A choice of one among a few that all stand side by side. -->
<script lang="ts" generics="Value extends string">
  let {
    value,
    options,
    label,
    inRowsOf = 0,
    onchoose,
  }: {
    value: Value;
    /** What can be chosen, how each is called, and what it is for where its name alone does not say it. */
    options: readonly (readonly [value: Value, title: string, hint?: string])[];
    label: string;
    /** How many stand in a row, where they are more than fit into one; 0 for all. */
    inRowsOf?: number;
    onchoose: (value: Value) => void;
  } = $props();
</script>

<div
  class={['segments', inRowsOf > 0 && 'segments-rows']}
  style={inRowsOf > 0 ? `grid-template-columns: repeat(${inRowsOf}, 1fr)` : undefined}
  role="group"
  aria-label={label}
>
  {#each options as [one, title, hint] (one)}
    <button type="button" aria-pressed={one === value} title={hint} onclick={() => onchoose(one)}>{title}</button>
  {/each}
</div>
