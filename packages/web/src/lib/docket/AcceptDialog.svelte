<!-- Asks for the name and the reason with which somebody accepts a finding or a gate. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import type { WaiverSubject } from '@mint-tally/core';
  import { Dialog } from 'bits-ui';
  import Problem from '$lib/controls/Problem.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';

  let { subjects, title, what, open = $bindable(false) }: { subjects: readonly WaiverSubject[]; title: string; what: string; open?: boolean } = $props();

  let reason = $state('');
  let fields: Record<string, string> = $state({});
  let failure = $state('');
  let sending = $state(false);

  $effect(() => {
    if (!open) return;
    fields = {};
    failure = '';
  });
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/55" />
    <Dialog.Content class="fixed top-1/2 left-1/2 z-50 w-[440px] -translate-x-1/2 -translate-y-1/2 border border-line bg-raised p-5 shadow-xl">
      <Dialog.Title class="text-[17px] font-bold">{title}</Dialog.Title>
      <Dialog.Description class="mt-1 text-soft">{what}</Dialog.Description>
      <form
        method="POST"
        action="?/accept"
        class="mt-4 space-y-3"
        use:enhance={() => {
          sending = true;
          return async ({ result, update }) => {
            sending = false;
            if (result.type === 'success') {
              rememberPerson();
              reason = '';
              open = false;
              await update({ reset: false });
            } else if (result.type === 'failure') fields = (result.data?.fields as Record<string, string>) ?? {};
            else if (result.type === 'error') failure = result.error?.message ?? 'It was not saved.';
          };
        }}
      >
        <input type="hidden" name="subjects" value={JSON.stringify(subjects)} />
        <TextField label="Your name" name="person" bind:value={person.name} autocomplete="name" problem={fields.person} />
        <label class="block">
          <span class="mb-1 block text-soft">Why it is fine</span>
          <textarea class="field" name="reason" rows="3" bind:value={reason} aria-invalid={fields.reason !== undefined} aria-describedby="accept-reason-problem"
          ></textarea>
          <span id="accept-reason-problem" class="text-[13px] text-bad">{fields.reason ?? ''}</span>
        </label>
        {#if failure}<Problem message={failure} />{/if}
        <div class="flex justify-end gap-2">
          <Dialog.Close class="button">Cancel</Dialog.Close>
          <button class="button button-main" disabled={sending}>Accept</button>
        </div>
      </form>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
