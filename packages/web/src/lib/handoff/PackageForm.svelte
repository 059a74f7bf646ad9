<!-- What goes into a package, in what form, and where to. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { person, rememberPerson } from '$lib/shot/person.svelte';
  import { formatMoment } from '$lib/text/format';
  import type { PackageView } from './handoff-view';
  import RootChoice from './RootChoice.svelte';

  let {
    state: shot,
    roots,
    proposedRoot,
    proposedFolder,
    note: composed,
    packages,
    fields,
  }: {
    state: ShotState;
    roots: readonly { name: string; path: string }[];
    proposedRoot: string;
    proposedFolder: string;
    /** The note to the compositor as it was put together. */
    note: string;
    packages: readonly PackageView[];
    fields: Readonly<Record<string, string>>;
  } = $props();

  /** What somebody typed; the proposal until then, which may change meanwhile. */
  let typedFolder: string | null = $state(null);
  let typedRoot: string | null = $state(null);
  let typedNote: string | null = $state(null);
  let form: 'folder' | 'tar' = $state('folder');
  let taking: 'copy' | 'clone' | 'link' = $state('copy');
  let since = $state('');

  const { handles } = $derived(shot.brief);
  const sinceOptions = $derived([
    ['', 'all of it'] as const,
    ...packages.map(({ id, folder, at }) => [String(id), `what is new since ${folder.split('/').at(-1)!}, ${formatMoment(at)}`] as const),
  ]);
</script>

<form
  method="POST"
  action="?/package"
  class="mt-3 space-y-3"
  aria-label="Package"
  use:enhance={() => {
    rememberPerson();
    return async ({ result, update }) => {
      if (result.type === 'success') typedFolder = typedRoot = typedNote = null;
      await update({ reset: false });
    };
  }}
>
  <RootChoice {roots} proposed={proposedRoot} bind:chosen={typedRoot} />
  <TextField label="Folder" name="folder" figure bind:value={() => typedFolder ?? proposedFolder, (value) => (typedFolder = value)} problem={fields.folder} />
  <TextField label="Handed over by" name="person" bind:value={person.name} autocomplete="name" problem={fields.person} />
  {#if packages.length > 0}<Select label="What goes" name="since" bind:value={since} options={sinceOptions} />{/if}

  <details class="border-t border-line pt-2">
    <summary class="cursor-pointer">Passes, frames, form</summary>
    <div class="mt-2 space-y-3">
      <fieldset>
        <legend class="mb-1 text-soft">Passes</legend>
        <input type="hidden" name="choosesPasses" value="yes" />
        <div class="flex max-h-[120px] flex-wrap gap-x-4 gap-y-1 overflow-y-auto">
          {#each shot.brief.passes as { name } (name)}
            <label class="flex items-center gap-1.5"><input type="checkbox" name="passes" value={name} checked />{name}</label>
          {/each}
        </div>
        {#if fields.passes}<p class="text-[13px] text-bad">{fields.passes}</p>{/if}
      </fieldset>
      <TextField label="Frames" name="range" figure placeholder={shot.brief.range} problem={fields.range} />
      {#if handles}<label class="flex items-center gap-1.5"
          ><input type="checkbox" name="withoutHandles" />without the handles (<span class="figure">{handles[0]}</span> before,
          <span class="figure">{handles[1]}</span> behind)</label
        >{/if}
      <div class="grid grid-cols-2 gap-3">
        <Select
          label="As"
          name="form"
          bind:value={form}
          options={[
            ['folder', 'plain files'],
            ['tar', 'one tar file'],
          ]}
        />
        <TextField label="Volumes of at most, GB" name="volumes" figure inputmode="decimal" placeholder="not split" problem={fields.volumes} />
      </div>
      {#if form === 'folder'}
        <Select
          label="Frames are"
          name="taking"
          bind:value={taking}
          options={[
            ['copy', 'copied'],
            ['clone', 'copied, sharing their blocks where the disk can'],
            ['link', 'hard links: no room, but one file under two names'],
          ]}
        />
        {#if taking === 'link'}<p class="text-[13px] text-soft">
            Whoever writes into the file of one name changes the other: for a package that is read and sent at once.
          </p>{/if}
      {/if}
      <fieldset>
        <legend class="mb-1 text-soft">Checksums beside SHA-256</legend>
        <div class="flex gap-4">
          <label class="flex items-center gap-1.5"><input type="checkbox" name="sums" value="sha512" />SHA-512</label>
          <label class="flex items-center gap-1.5"><input type="checkbox" name="sums" value="xxh64" />xxh64, quick</label>
        </div>
      </fieldset>
    </div>
  </details>
  <details class="border-t border-line pt-2">
    <summary class="cursor-pointer">Note to the compositor</summary>
    <textarea
      class="field figure mt-2 h-[220px] text-[13px]"
      aria-label="Note to the compositor"
      bind:value={() => typedNote ?? composed, (value) => (typedNote = value)}></textarea>
    {#if typedNote !== null}
      <input type="hidden" name="note" value={typedNote} />
      <button type="button" class="button button-small mt-1" onclick={() => (typedNote = null)}>As it was put together</button>
    {:else}<p class="mt-1 text-[13px] text-soft">
        Put together from the brief, the count, the assay and the waivers; edit it, and it goes as you wrote it.
      </p>{/if}
  </details>

  <button type="submit" class="button button-main" disabled={!shot.ready || roots.length === 0}>Write package</button>
  {#if !shot.ready}<p class="text-[13px] text-soft" data-testid="refusal">{shot.refusal}</p>{/if}
  {#if roots.length === 0}<Problem message="No root may be written." remedy="Mark one as writable in mint-tally.config.json." />{/if}
</form>
