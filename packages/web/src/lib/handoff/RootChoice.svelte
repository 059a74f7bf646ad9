<!-- Which of the roots that may be written something goes into: what somebody chose, the proposal until then. -->
<script lang="ts">
  import Select from '$lib/controls/Select.svelte';

  let { roots, proposed, chosen = $bindable(null) }: { roots: readonly { name: string; path: string }[]; proposed: string; chosen?: string | null } = $props();
</script>

<Select
  label="Into"
  name="root"
  disabled={roots.length === 0}
  bind:value={() => chosen ?? proposed, (value) => (chosen = value)}
  options={roots.map((root) => [root.name, `${root.name} (${root.path})`])}
/>
