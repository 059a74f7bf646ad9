<!-- Something that went wrong: what happened, and what can be done. -->
<script lang="ts">
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';

  let { message, remedy = '' }: { message: string; remedy?: string } = $props();
</script>

<p role="alert" class="flex items-start gap-2 border-l-2 border-bad bg-raised px-3 py-2 text-[14px]">
  <TriangleAlert size={16} class="mt-0.5 shrink-0 text-bad" aria-hidden="true" />
  <span
    >{message}
    {#if remedy}<span class="text-soft">{remedy}</span>{/if}</span
  >
</p>
