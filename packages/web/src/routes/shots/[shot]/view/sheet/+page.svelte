<script lang="ts">
  import Sheet from '$lib/sheet/Sheet.svelte';

  let { data } = $props();
</script>

<svelte:head><title>{data.state.shot.name}: sheet · Mint Tally</title></svelte:head>

<main class="flex min-h-0 flex-1 flex-col">
  <h2 class="sr-only">Sheet</h2>
  <Sheet state={data.state} />
</main>
