<!-- A package that came from elsewhere: what it says that it is, and the name that stands in its receipt. -->
<script lang="ts" module>
  /** A package as it lies there. Nothing of it has been verified. */
  export interface ArrivedView {
    readonly root: string;
    readonly folder: string;
    readonly shot: string;
    readonly version: string;
    readonly range: string;
    readonly passes: number;
    /** What the shot can be called here. */
    readonly name: string;
  }
</script>

<script lang="ts">
  import { enhance } from '$app/forms';
  import TextField from '$lib/controls/TextField.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';

  let { arrived, fields, onleave }: { arrived: ArrivedView; fields: Readonly<Record<string, string>>; onleave: () => void } = $props();

  let typedName: string | null = $state(null);
</script>

<main class="min-h-0 flex-1 overflow-y-auto px-4.5 py-4">
  <h2 class="text-[20px] font-bold">This folder is a package</h2>
  <p class="mt-1 max-w-[70ch]">
    It says that it holds <b>{[arrived.shot, arrived.version].filter(Boolean).join(' ')}</b>, frames <span class="figure">{arrived.range}</span> of {arrived.passes ===
    1
      ? 'one pass'
      : `${arrived.passes} passes`}. Nothing of that is trusted: every file is held against the manifest, and the frames are counted against the brief inside.
    Nothing in the package is changed.
  </p>
  <p class="mt-1 text-[13px] text-soft">
    Folder <span class="figure text-ink">{arrived.root}{arrived.folder ? `/${arrived.folder}` : ''}</span>
    <button type="button" class="ml-2 underline hover:text-ink" onclick={onleave}>choose another</button>
  </p>
  <form
    method="POST"
    action="?/open"
    class="mt-4 max-w-[420px] space-y-3"
    aria-label="Open the package"
    use:enhance={() => {
      rememberPerson();
      return ({ update }) => update({ reset: false });
    }}
  >
    <input type="hidden" name="root" value={arrived.root} />
    <input type="hidden" name="folder" value={arrived.folder} />
    <TextField label="Name of the shot here" name="name" bind:value={() => typedName ?? arrived.name, (value) => (typedName = value)} problem={fields.name} />
    <TextField label="Your name: it stands in the receipt" name="person" bind:value={person.name} autocomplete="name" problem={fields.person ?? fields['']} />
    <div class="flex gap-2">
      <button type="submit" class="button button-main">Open, verify and count</button>
      <a class="button" href="/">Cancel</a>
    </div>
  </form>
</main>
