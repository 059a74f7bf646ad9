<script lang="ts">
  import { page } from '$app/state';
</script>

<svelte:head><title>{page.error?.message ?? 'Not found'} · Mint Tally</title></svelte:head>

<main class="m-auto max-w-xl p-8">
  <p class="figure text-soft">{page.status}</p>
  <h1 class="mt-1 text-[20px] font-bold">{page.error?.message}</h1>
  {#if page.error?.remedy}<p class="mt-2 text-soft">{page.error.remedy}</p>{/if}
  <p class="mt-5"><a class="button" href="/">To the shots</a></p>
</main>
