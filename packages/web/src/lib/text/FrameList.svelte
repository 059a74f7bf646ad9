<!-- Lists of frames as text, `1-12,15,20-40` or `beauty 1-12,15`: lines break after a comma or a blank, never inside a number. -->
<script lang="ts">
  let { text }: { text: string } = $props();

  const pieces = $derived(text.split(/(?<=[, ])/));
</script>

<span class="break-words"
  >{#each pieces as piece, i (i)}{#if /\d/.test(piece)}<span class="whitespace-nowrap">{piece}</span>{:else}{piece}{/if}<wbr />{/each}</span
>
