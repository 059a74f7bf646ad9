<!-- Signs a version off by name, or sends it back with a note. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';

  let { kind = $bindable(null), content, version }: { kind?: 'signed' | 'sent-back' | null; content: string; version: string } = $props();

  let fields: Record<string, string> = $state({});
  let failure = $state('');
  let note = $state('');
  let sending = $state(false);
  const isBack = $derived(kind === 'sent-back');
</script>

<Dialog
  bind:open={() => kind !== null, (open) => (kind = open ? kind : null)}
  title={isBack ? `Send ${version} back` : `Sign off ${version}`}
  text={isBack
    ? 'It goes back to whoever made it: what is to be done stands here until it is signed off.'
    : 'You answer for the frames as they were counted. When one of them changes the stamp breaks, and says which.'}
  main={{ label: isBack ? 'Send back' : 'Sign off', busy: sending }}
>
  {#snippet children(formId)}
    <form
      id={formId}
      method="POST"
      action="?/stamp"
      class="space-y-3"
      use:enhance={() => {
        sending = true;
        return async ({ result, update }) => {
          sending = false;
          fields = {};
          failure = '';
          if (result.type === 'success') {
            rememberPerson();
            note = '';
            kind = null;
            await update({ reset: false });
          } else if (result.type === 'failure') fields = (result.data?.stamp as Record<string, string>) ?? {};
          else if (result.type === 'error') failure = result.error?.message ?? 'It was not saved.';
        };
      }}
    >
      <input type="hidden" name="kind" value={kind ?? ''} />
      <input type="hidden" name="content" value={content} />
      <TextField label="Your name" name="person" bind:value={person.name} autocomplete="name" problem={fields.person ?? fields.content} />
      <label class="block">
        <span class="mb-1 block text-soft">{isBack ? 'What is to be done' : 'A note, if you like'}</span>
        <textarea name="note" class="field h-24" bind:value={note} aria-invalid={(fields.note ?? '') !== ''}></textarea>
        <span class="block text-[13px] text-bad">{fields.note ?? ''}</span>
      </label>
      {#if failure}<Problem message={failure} />{/if}
    </form>
  {/snippet}
</Dialog>
