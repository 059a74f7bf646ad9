<!-- Asks for the name and the reason with which somebody waives a finding or a gate, and twice where frames are given up. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';
  import type { Waiving } from './waiving';

  let { waiving = $bindable(null) }: { waiving?: Waiving | null } = $props();

  let reason = $state('');
  let fields: Record<string, string> = $state({});
  let failure = $state('');
  let sending = $state(false);
  /** What is given up, in words; asked about before it is saved. */
  let givenUp: readonly string[] = $state([]);

  const id = $props.id();
  let askedAbout: Waiving | null = null;
  $effect(() => {
    if (waiving === askedAbout) return;
    askedAbout = waiving;
    reason = '';
    fields = {};
    failure = '';
    givenUp = [];
  });
</script>

<Dialog
  bind:open={() => waiving !== null, (open) => (waiving = open ? waiving : null)}
  title={waiving?.title ?? ''}
  text={waiving?.what ?? ''}
  main={{ label: givenUp.length > 0 ? 'Waive all the same' : 'Waive', busy: sending, grave: givenUp.length > 0 }}
>
  {#snippet children(formId)}
    <form
      id={formId}
      method="POST"
      action="?/waive"
      class="space-y-3"
      use:enhance={() => {
        sending = true;
        return async ({ result, update }) => {
          sending = false;
          if (result.type === 'success') {
            rememberPerson();
            waiving = null;
            await update({ reset: false });
          } else if (result.type === 'failure') {
            fields = (result.data?.fields as Record<string, string>) ?? {};
            givenUp = (result.data?.givenUp as string[]) ?? [];
          } else if (result.type === 'error') failure = result.error?.message ?? 'It was not saved.';
        };
      }}
    >
      <input type="hidden" name="subjects" value={JSON.stringify(waiving?.subjects ?? [])} />
      <input type="hidden" name="givenUp" value={JSON.stringify(givenUp)} />
      <TextField label="Your name" name="person" bind:value={person.name} autocomplete="name" problem={fields.person} />
      <label class="block">
        <span class="mb-1 block text-soft">Why it is fine</span>
        <textarea class="field" name="reason" rows="3" bind:value={reason} aria-invalid={fields.reason !== undefined} aria-describedby="{id}-problem"
        ></textarea>
        <span id="{id}-problem" class="text-[13px] text-bad">{fields.reason ?? ''}</span>
      </label>
      {#if fields.subjects}<Problem message={fields.subjects} />{/if}
      {#if failure}<Problem message={failure} />{/if}
      {#if givenUp.length > 0}
        <div
          role="alert"
          class="border-l-[3px] border-bad bg-ground px-3 py-2"
          {@attach (element: HTMLElement) => element.scrollIntoView({ block: 'nearest' })}
        >
          <p class="font-bold">This gives up frames:</p>
          <ul>
            {#each givenUp as words (words)}<li>{words}</li>{/each}
          </ul>
          <p class="mt-1 text-[13px] text-soft">They will be missing from the package, and the other side will read your name and your reason.</p>
        </div>
      {/if}
    </form>
  {/snippet}
</Dialog>
