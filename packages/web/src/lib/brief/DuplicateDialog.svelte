<!-- Gives other shots this one's brief: first it shows what that changes in each, then it is done. -->
<script lang="ts">
  import { askServer } from '$lib/asking/ask-server';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import { counted } from '$lib/text/format';
  import DifferencesTable from './DifferencesTable.svelte';
  import { duplicateAnswerSchema, type ShotChange } from './duplicating';

  let { open = $bindable(false), shotId, others }: { open?: boolean; shotId: number; others: readonly { id: number; name: string; note: string }[] } = $props();

  let chosen: number[] = $state([]);
  let keepFrames = $state(true);
  /** What it would change, once that has been asked; null while shots are chosen. */
  let changes: readonly ShotChange[] | null = $state(null);
  let done = $state('');
  let failure = $state('');
  let sending = $state(false);

  const wanted = $derived.by(() => changes?.filter(({ differences, problem }) => problem === '' && differences.length > 0) ?? []);
  const label = $derived(changes === null ? 'Show what changes' : wanted.length === 0 ? 'Choose others' : `Copy to ${counted(wanted.length, 'shot')}`);

  async function ask(body: object): Promise<ShotChange[] | null> {
    sending = true;
    failure = '';
    done = '';
    const answer = await askServer(`/shots/${shotId}/duplicate`, 'POST', body);
    sending = false;
    if (answer.ok) return duplicateAnswerSchema.parse(answer.value).changes;
    failure = answer.refused;
    return null;
  }

  async function submit(event: SubmitEvent) {
    event.preventDefault();
    if (sending) return;
    if (changes !== null && wanted.length === 0) changes = null;
    else if (changes === null) {
      if (chosen.length === 0) failure = 'Choose the shots first.';
      else changes = await ask({ action: 'preview', to: chosen, keepFrames });
    } else {
      const given = await ask({ action: 'give', to: wanted.map(({ id, version }) => ({ id, version })), keepFrames });
      if (given === null) return;
      done = `Given to ${counted(given.length, 'shot')}; they are being counted against it.`;
      chosen = [];
      changes = null;
    }
  }
</script>

<Dialog
  bind:open
  title="Copy this brief to other shots"
  text="The saved brief becomes a new version of theirs, under their own names. Nothing on disk changes."
  width="middle"
  leave="Close"
  main={{ label, busy: sending }}
>
  {#snippet children(formId)}
    <form id={formId} class="flex min-h-0 flex-col gap-3" onsubmit={submit}>
      {#if changes === null}
        {#if others.length === 0}<p class="text-soft">There is no other shot in the project.</p>{/if}
        <ul class="min-h-0 space-y-1.5 overflow-y-auto">
          {#each others as { id, name, note } (id)}
            <li>
              <label class="flex items-center gap-2.5"
                ><input type="checkbox" class="accent-(--mint)" bind:group={chosen} value={id} /><b>{name}</b>
                <span class="truncate text-soft">{note}</span></label
              >
            </li>
          {/each}
        </ul>
        <label class="flex items-center gap-2.5 border-t border-line pt-3"
          ><input type="checkbox" class="accent-(--mint)" bind:checked={keepFrames} />They keep their own frames and sound</label
        >
      {:else}
        <ul class="min-h-0 overflow-y-auto">
          {#each changes as { id, name, version, differences, problem } (id)}
            <li class="border-b border-line py-2">
              <div class="flex justify-between gap-3">
                <b>{name}</b><span class="text-soft"
                  >{problem !== ''
                    ? 'left out'
                    : differences.length === 0
                      ? 'says the same already'
                      : `${counted(differences.length, 'change')} to v${version}`}</span
                >
              </div>
              {#if problem !== ''}<Problem message={problem} />{/if}
              {#if differences.length > 0}<DifferencesTable {differences} before="v{version}" after="v{version + 1}" />{/if}
            </li>
          {/each}
        </ul>
        <button type="button" class="self-start text-[13px] underline hover:text-ink" onclick={() => (changes = null)}>Choose other shots</button>
      {/if}
      {#if failure}<Problem message={failure} />{/if}
      {#if done}<p role="status" class="text-[13px] text-soft">{done}</p>{/if}
    </form>
  {/snippet}
</Dialog>
