<script lang="ts">
  import { enhance } from '$app/forms';
  import { untrack } from 'svelte';
  import BriefForm from '$lib/brief/BriefForm.svelte';
  import { briefInput, draftOf } from '$lib/brief/draft';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import Problem from '$lib/controls/Problem.svelte';

  let { data, form } = $props();

  let draft = $state(untrack(() => draftOf(data.state.brief, data.state.shot.note)));
  const fields: Record<string, string> = $derived(form && 'fields' in form ? ((form.fields as Record<string, string>) ?? {}) : {});
  const saved = $derived(form && 'version' in form ? form.version : null);
  const original = $derived(JSON.stringify([briefInput(draftOf(data.state.brief, '')), data.state.shot.note]));
  const changed = $derived(JSON.stringify([briefInput(draft), draft.note]) !== original);
</script>

<svelte:head><title>{data.state.shot.name}: brief · Mint Tally</title></svelte:head>

<form
  method="POST"
  class="flex min-h-0 flex-1 flex-col"
  use:enhance={() =>
    ({ update }) =>
      update({ reset: false })}
>
  <main class="min-h-0 flex-1 overflow-y-auto px-4.5 py-4">
    {#if fields['']}<div class="mb-3"><Problem message={fields['']} /></div>{/if}
    <BriefForm bind:draft told={fields} />
  </main>
  <input type="hidden" name="note" value={draft.note} />
  <input type="hidden" name="brief" value={JSON.stringify(briefInput(draft))} />
  <footer class="flex shrink-0 items-center gap-3 border-t border-line px-4.5 py-2.5">
    <button class="button button-main" disabled={!changed}>Save and count again</button>
    <CopyButton text={JSON.stringify(data.state.brief, null, 2)} label="Copy as brief file" />
    <span class="text-[13px] text-soft"
      >Folder <span class="figure text-ink">{data.state.shot.root}{data.state.shot.folder ? `/${data.state.shot.folder}` : ''}</span></span
    >
    <span role="status" class="ml-auto text-[13px]">
      {#if Object.keys(fields).length > 0}<span class="text-bad">Not saved: look at the marked entries.</span>
      {:else if changed}<span class="text-soft">Not saved yet</span>
      {:else if saved}<span class="text-soft">Saved as version {saved}</span>{/if}
    </span>
  </footer>
</form>
