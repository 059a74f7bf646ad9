<!-- Deletes a shot, and says first what goes with it. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import * as z from 'zod';
  import { askServer } from '$lib/asking/ask-server';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import { counted } from '$lib/text/format';

  let { open = $bindable(false), shotId, name, ondeleted }: { open?: boolean; shotId: number; name: string; ondeleted: () => void } = $props();

  const holdingsSchema = z.object({
    briefs: z.number(),
    counts: z.number(),
    waivers: z.number(),
    packages: z.number(),
    batches: z.number(),
    merges: z.number(),
  });
  type Holdings = z.output<typeof holdingsSchema>;

  let holdings: Holdings | null = $state(null);
  let failure = $state('');
  let sending = $state(false);
  let typed = $state('');
  let problem = $state('');

  $effect(() => {
    if (!open) return;
    holdings = null;
    failure = '';
    typed = '';
    problem = '';
    void ask('GET').then((answer) => (holdings = answer === null ? null : holdingsSchema.parse(answer)));
  });

  const lines = $derived.by(() => {
    if (holdings === null) return [];
    const { briefs, counts, waivers, batches, packages } = holdings;
    const parts = [
      [briefs, 'brief version'],
      [counts, 'count'],
      [waivers, 'waiver'],
      [batches, 'batch record'],
      [packages, 'package record'],
    ] as const;
    return parts.filter(([count]) => count > 0).map(([count, what]) => counted(count, what));
  });

  async function ask(method: 'GET' | 'DELETE'): Promise<unknown> {
    const answer = await askServer(`/shots/${shotId}/delete`, method);
    if (answer.ok) return answer.value;
    failure = answer.refused;
    return null;
  }

  async function remove(event: SubmitEvent) {
    event.preventDefault();
    if (sending) return;
    problem = typed.trim() === name ? '' : `Write ${name} to say that this shot is meant.`;
    if (problem !== '') return;
    sending = true;
    failure = '';
    const gone = (await ask('DELETE')) !== null;
    sending = false;
    if (!gone) return;
    open = false;
    ondeleted();
    await goto('/', { invalidateAll: true });
  }
</script>

<Dialog
  bind:open
  title="Delete {name}"
  text="The frames on disk, and packages that were written, stay as they are."
  main={{ label: 'Delete shot', busy: sending, grave: true }}
>
  {#snippet children(formId)}
    <form id={formId} class="space-y-3" onsubmit={remove}>
      {#if holdings}
        <p>Mint Tally forgets: <b>{lines.join(', ')}</b>.</p>
        {#if holdings.merges > 0}
          <p class="border-l-[3px] border-bad bg-ground px-3 py-2">
            {counted(holdings.merges, 'merge')} can then no longer be taken back. What {holdings.merges === 1 ? 'it' : 'they'} set aside is kept for its usual time.
          </p>
        {/if}
        <label class="block"
          ><span class="mb-1 block text-soft">Name of the shot</span>
          <input class="field" bind:value={typed} autocomplete="off" spellcheck="false" aria-invalid={problem !== ''} aria-describedby="{formId}-problem" />
        </label>
        <span id="{formId}-problem" role="alert" class="block text-[13px] text-bad">{problem}</span>
      {:else if !failure}<p class="text-soft">Looking what hangs on it …</p>{/if}
      {#if failure}<Problem message={failure} />{/if}
    </form>
  {/snippet}
</Dialog>
