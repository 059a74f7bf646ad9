<script lang="ts">
  import Redo from '@lucide/svelte/icons/redo-2';
  import Undo from '@lucide/svelte/icons/undo-2';
  import { enhance } from '$app/forms';
  import { beforeNavigate } from '$app/navigation';
  import { compareBriefs, describeError, parseBrief } from '@mint-tally/core';
  import { untrack } from 'svelte';
  import BriefForm from '$lib/brief/BriefForm.svelte';
  import BriefSums from '$lib/brief/BriefSums.svelte';
  import { briefInput, draftOf } from '$lib/brief/draft';
  import DeleteShotDialog from '$lib/brief/DeleteShotDialog.svelte';
  import DuplicateDialog from '$lib/brief/DuplicateDialog.svelte';
  import { FieldProblems } from '$lib/brief/field-problems.svelte';
  import { EditHistory } from '$lib/brief/history.svelte';
  import VersionsDialog from '$lib/brief/VersionsDialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';

  let { data, form } = $props();

  let draft = $state(untrack(() => draftOf(data.state.brief, data.state.shot.note)));
  const fields: Record<string, string> = $derived(form && 'fields' in form ? ((form.fields as Record<string, string>) ?? {}) : {});
  const problems = new FieldProblems(
    () => draft,
    () => fields,
  );
  const history = new EditHistory(untrack(() => $state.snapshot(draft)));
  const saved = $derived(form && 'version' in form ? form.version : null);
  const contentOf = (one: typeof draft) => JSON.stringify([briefInput(one), one.note]);
  const original = $derived(contentOf(draftOf(data.state.brief, data.state.shot.note)));
  const changed = $derived(contentOf(draft) !== original);
  const place = $derived({ root: data.state.shot.root, path: data.state.shot.folder });

  let importProblem = $state('');
  let versionsShown = $state(false);
  let duplicateShown = $state(false);
  let deleteShown = $state(false);
  let saving = false;
  /** A shot that was deleted takes with it what was typed. */
  let gone = false;

  function onchange() {
    problems.changed();
    // A listener of the same event may still be writing to the draft.
    queueMicrotask(() => history.note($state.snapshot(draft)));
  }

  function step(back: boolean) {
    const value = back ? history.undo() : history.redo();
    if (value) draft = value;
    problems.changed();
  }

  /** The version that was restored and that the page has not read yet: news from elsewhere may come between. */
  let restored: number | null = $state(null);

  // The form shows what was restored; undo leads back to what stood there.
  $effect(() => {
    if (restored === null || data.state.briefVersion < restored) return;
    restored = null;
    untrack(() => {
      draft = draftOf(data.state.brief, draft.note);
      onchange();
    });
  });

  function onkeydown(event: KeyboardEvent) {
    if (!(event.ctrlKey || event.metaKey) || event.altKey || event.key.toLowerCase() !== 'z') return;
    event.preventDefault();
    step(!event.shiftKey);
  }

  async function importFile(event: Event & { currentTarget: HTMLInputElement }) {
    const [file] = event.currentTarget.files ?? [];
    event.currentTarget.value = '';
    if (!file) return;
    try {
      draft = draftOf(parseBrief(JSON.parse(await file.text()), file.name), draft.note);
      importProblem = '';
      onchange();
    } catch (thrown) {
      importProblem = thrown instanceof SyntaxError ? `${file.name} is not JSON: ${thrown.message}` : describeError(thrown);
    }
  }

  beforeNavigate((navigation) => {
    if (!changed || saving || gone) return;
    if (navigation.willUnload) navigation.cancel();
    else if (!confirm('The brief has changes that are not saved. Leave them?')) navigation.cancel();
  });
</script>

<svelte:head><title>{data.state.shot.name}: brief · Mint Tally</title></svelte:head>
<svelte:window {onkeydown} />

<form
  method="POST"
  action="?/save"
  class="flex min-h-0 flex-1 flex-col"
  use:enhance={() => {
    saving = true;
    return async ({ update }) => {
      await update({ reset: false });
      saving = false;
    };
  }}
>
  <div class="flex min-h-0 flex-1 small:flex-col">
    <main class="min-w-0 flex-1 overflow-y-auto px-4.5 py-3">
      {#if fields['']}<div class="mb-3"><Problem message={fields['']} /></div>{/if}
      {#if importProblem}<div class="mb-3"><Problem message={importProblem} remedy="Nothing was changed." /></div>{/if}
      <BriefForm bind:draft {problems} {place} measuring={data.measuring} {onchange} />
    </main>
    <BriefSums
      brief={problems.reading.brief}
      folder={data.place?.folder ?? null}
      freeBytes={data.place?.freeBytes ?? null}
      meanBytes={data.meanBytes}
      specifications={data.specifications}
      bind:follows={draft.follows}
      {onchange}
    />
  </div>
  <input type="hidden" name="note" value={draft.note} />
  <input type="hidden" name="brief" value={JSON.stringify(briefInput(draft))} />
  <footer class="flex shrink-0 flex-wrap items-center gap-2 border-t border-line px-4.5 py-2">
    <button type="submit" class="button button-main" disabled={!changed}>Save and count again</button>
    <button type="button" class="button px-2" disabled={!history.canUndo} onclick={() => step(true)} aria-label="Undo" title="Undo (Ctrl Z)"
      ><Undo size={15} aria-hidden="true" /></button
    >
    <button type="button" class="button px-2" disabled={!history.canRedo} onclick={() => step(false)} aria-label="Redo" title="Redo (Ctrl Shift Z)"
      ><Redo size={15} aria-hidden="true" /></button
    >
    <button type="button" class="button" onclick={() => (versionsShown = true)}>Versions</button>
    <button type="button" class="button" onclick={() => (duplicateShown = true)} disabled={changed} title={changed ? 'Save it first' : undefined}
      >Copy brief to shots</button
    >
    <label class="button cursor-pointer focus-within:outline-2 focus-within:outline-mint"
      >Import<input type="file" accept=".json,application/json" class="sr-only" onchange={importFile} /></label
    >
    <a class="button" href="/shots/{data.state.shot.id}/export/brief.json" download>Brief file</a>
    <a class="button" href="/shots/{data.state.shot.id}/export/order.csv" download>CSV</a>
    <a class="button" href="/shots/{data.state.shot.id}/sheet">Order sheet</a>
    <button type="button" class="button" onclick={() => (deleteShown = true)}>Delete shot…</button>
    <span role="status" class="ml-auto text-[13px]">
      {#if Object.keys(fields).length > 0}<span class="text-bad">Not saved: look at the marked entries.</span>
      {:else if changed}<span class="text-soft">Not saved yet</span>
      {:else if saved}<span class="text-soft">Saved as version {saved}</span>{/if}
    </span>
  </footer>
</form>

<VersionsDialog bind:open={versionsShown} versions={data.versions} compare={compareBriefs} unsaved={changed} onrestored={(version) => (restored = version)} />
<DuplicateDialog bind:open={duplicateShown} shotId={data.state.shot.id} others={data.others} />
<DeleteShotDialog bind:open={deleteShown} shotId={data.state.shot.id} name={data.state.shot.name} ondeleted={() => (gone = true)} />
