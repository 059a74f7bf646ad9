<!-- Asks for the words of a note and who writes it. -->
<script lang="ts">
  import type { FrameSet, Note } from '@mint-tally/core';
  import { askServer } from '$lib/asking/ask-server';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import { renewPage } from '$lib/jobs/live.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';

  let {
    open = $bindable(false),
    shotId,
    pass,
    frames,
    region,
  }: {
    open?: boolean;
    shotId: number;
    pass: string;
    frames: FrameSet;
    /** The region that is marked in the picture; null for none. */
    region: Note['rectangle'];
  } = $props();

  let text = $state('');
  let withRegion = $state(true);
  let fields: Readonly<Record<string, string>> = $state({});
  let failure = $state('');
  let sending = $state(false);
  const id = $props.id();

  async function save() {
    sending = true;
    const answer = await askServer(`/shots/${shotId}/notes`, 'POST', {
      pass,
      frames: frames.toString(),
      rectangle: withRegion ? region : null,
      text,
      person: person.name,
    });
    sending = false;
    fields = answer.ok ? {} : answer.fields;
    failure = answer.ok || Object.keys(answer.fields).length > 0 ? '' : answer.refused;
    if (!answer.ok) return;
    rememberPerson();
    text = '';
    open = false;
    await renewPage();
  }
</script>

<Dialog bind:open title="Note on {pass} {frames}" text="It stands in the docket until somebody closes it." main={{ label: 'Pin note', busy: sending }}>
  {#snippet children(formId)}
    <form
      id={formId}
      class="space-y-3"
      onsubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <label class="block"
        ><span class="mb-1 block text-soft">Note</span>
        <textarea class="field min-h-[90px]" bind:value={text} maxlength="2000" aria-invalid={fields.text !== undefined} aria-describedby="{id}-text"
        ></textarea></label
      >
      {#if fields.text}<span id="{id}-text" class="block text-[13px] text-bad" role="alert">{fields.text}</span>{/if}
      {#if region}
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="accent-(--mint)" bind:checked={withRegion} /> at the marked region,
          <span class="figure">{region[2]} x {region[3]} from {region[0]}, {region[1]}</span></label
        >
      {/if}
      <TextField label="Your name" name="person" bind:value={person.name} autocomplete="name" problem={fields.person} />
      {#if failure}<Problem message={failure} remedy="" />{/if}
    </form>
  {/snippet}
</Dialog>
