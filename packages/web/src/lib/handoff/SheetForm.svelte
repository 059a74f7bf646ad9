<!-- What a contact sheet shows, and how. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import LookFields from './LookFields.svelte';
  import RootChoice from './RootChoice.svelte';

  let {
    state: shot,
    roots,
    proposedRoot,
    proposedSheet,
    fields,
  }: {
    state: ShotState;
    roots: readonly { name: string; path: string }[];
    proposedRoot: string;
    proposedSheet: string;
    fields: Readonly<Record<string, string>>;
  } = $props();

  let form = $state<'png' | 'pdf'>('png');
  let typedFile: string | null = $state(null);
  let typedRoot: string | null = $state(null);
  const usual = $derived((shot.brief.passes.find(({ role }) => role === 'beauty') ?? shot.brief.passes[0]!).name);
</script>

<form
  method="POST"
  action="?/sheet"
  class="mt-3 space-y-3"
  aria-label="Contact sheet"
  use:enhance={() =>
    async ({ result, update }) => {
      if (result.type === 'success') typedFile = typedRoot = null;
      await update({ reset: false });
    }}
>
  <fieldset>
    <legend class="mb-1 text-soft">Passes</legend>
    <div class="flex max-h-[120px] flex-wrap gap-x-4 gap-y-1 overflow-y-auto">
      {#each shot.brief.passes as { name } (name)}
        <label class="flex items-center gap-1.5"><input type="checkbox" name="passes" value={name} checked={name === usual} />{name}</label>
      {/each}
    </div>
    {#if fields.passes}<p class="text-[13px] text-bad">{fields.passes}</p>{/if}
  </fieldset>
  <div class="grid grid-cols-2 gap-3">
    <TextField label="Frames" name="range" figure placeholder={shot.brief.range} problem={fields.range} />
    <TextField label="Pictures a pass, at most" name="most" figure inputmode="numeric" value="48" problem={fields.most} />
    <TextField label="Columns" name="columns" figure inputmode="numeric" value="6" problem={fields.columns} />
    <Select
      label="Ground"
      name="ground"
      value="dark"
      options={[
        ['dark', 'dark'],
        ['light', 'light, for printing'],
      ]}
    />
  </div>
  <Select
    label="As"
    name="form"
    bind:value={form}
    options={[
      ['png', 'PNG: one picture'],
      ['pdf', 'PDF: pages of A4'],
    ]}
  />
  <RootChoice {roots} proposed={proposedRoot} bind:chosen={typedRoot} />
  <TextField label="File" name="file" figure bind:value={() => typedFile ?? `${proposedSheet}.${form}`, (value) => (typedFile = value)} problem={fields.file} />
  <details class="border-t border-line pt-2">
    <summary class="cursor-pointer">Look</summary>
    <div class="mt-2 space-y-3">
      <LookFields {fields} />
      <TextField label="A line under the title" name="note" problem={fields.note} />
    </div>
  </details>
  <button type="submit" class="button button-main" disabled={roots.length === 0 || shot.count === null}>Make contact sheet</button>
  <p class="text-[13px] text-soft">
    {shot.count === null
      ? 'Count the shot first.'
      : 'Frames as View shows them, evenly spread over the range, the first and the last among them; missing frames as slates.'}
  </p>
</form>
