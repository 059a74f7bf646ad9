<!-- The saved versions of a brief, what changed between two of them, and a way back to an earlier one. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import type { Brief, BriefDifference } from '@mint-tally/core';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import { formatMoment } from '$lib/text/format';
  import DifferencesTable from './DifferencesTable.svelte';

  let {
    open = $bindable(false),
    versions,
    compare,
    unsaved,
    onrestored,
  }: {
    open?: boolean;
    /** Newest first. */
    versions: readonly { version: number; brief: Brief; who: string; createdAt: Date }[];
    compare: (before: Brief, after: Brief) => BriefDifference[];
    /** Whether the page holds changes that a restored version would take the place of. */
    unsaved: boolean;
    onrestored: (version: number) => void;
  } = $props();

  let chosenBefore: number | null = $state(null);
  let chosenAfter: number | null = $state(null);
  let failure = $state('');
  let sending = $state(false);
  const after = $derived(versions.find((one) => one.version === chosenAfter) ?? versions[0]);
  const before = $derived(versions.find((one) => one.version === chosenBefore) ?? versions[1] ?? versions[0]);
  const differences = $derived(compare(before.brief, after.brief));
  const newest = $derived(versions[0]);
  const choices = $derived(versions.map(({ version, who, createdAt }) => [String(version), `v${version}, ${who}, ${formatMoment(createdAt)}`] as const));
  /** The earlier version that is looked at, when it says something else than the newest. */
  const restorable = $derived([before, after].find((one) => one.version !== newest.version && compare(one.brief, newest.brief).length > 0) ?? null);
</script>

<Dialog
  bind:open
  title="Versions of the brief"
  text="Saving keeps every version. Choose two to see what changed. An earlier one is restored as a new version; none is lost."
  width="wide"
  leave="Close"
  main={restorable && { label: `Restore v${restorable.version} as v${newest.version + 1}`, busy: sending }}
>
  {#snippet children(formId)}
    <div class="grid grid-cols-2 gap-4">
      {#each [{ title: 'Before', one: before, choose: (version: number) => (chosenBefore = version) }, { title: 'After', one: after, choose: (version: number) => (chosenAfter = version) }] as { title, one: chosen, choose } (title)}
        <Select label={title} bind:value={() => String(chosen.version), (version) => choose(Number(version))} options={choices} />
      {/each}
    </div>
    <div class="mt-4 min-h-0 overflow-y-auto">
      {#if differences.length === 0}
        <p class="text-soft">{versions.length === 1 ? 'There is one version so far.' : 'These two say the same.'}</p>
      {:else}
        <DifferencesTable {differences} before="v{before.version}" after="v{after.version}" />
      {/if}
    </div>
    <form
      id={formId}
      method="POST"
      action="?/restore"
      use:enhance={({ cancel }) => {
        failure = '';
        if (unsaved && !confirm('The brief has changes that are not saved. Restoring takes their place. Go on?')) return cancel();
        sending = true;
        return async ({ result, update }) => {
          sending = false;
          if (result.type !== 'success') {
            failure = result.type === 'error' ? (result.error?.message ?? 'It was not restored.') : 'It was not restored.';
            return;
          }
          await update({ reset: false });
          [chosenBefore, chosenAfter] = [null, null];
          open = false;
          onrestored(Number(result.data?.version));
        };
      }}
    >
      <input type="hidden" name="version" value={restorable?.version ?? ''} />
      {#if failure}<div class="mt-3"><Problem message={failure} /></div>{/if}
    </form>
  {/snippet}
</Dialog>
