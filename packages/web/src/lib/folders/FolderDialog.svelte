<!-- Asks for a folder below the allowed roots. -->
<script lang="ts">
  import Dialog from '$lib/controls/Dialog.svelte';
  import FolderPicker from './FolderPicker.svelte';

  let {
    open = $bindable(false),
    title,
    text = '',
    roots,
    onchoose,
  }: {
    open?: boolean;
    title: string;
    text?: string;
    roots: readonly { name: string; path: string }[];
    onchoose: (root: string, folder: string) => void;
  } = $props();
</script>

<Dialog bind:open {title} {text} width="wide" tall>
  <FolderPicker
    {roots}
    onchoose={(root, folder) => {
      open = false;
      onchoose(root, folder);
    }}
  />
</Dialog>
