<!-- Which delivery specification the shot follows, and where it departs from it. -->
<script lang="ts">
  import { invalidateAll } from '$app/navigation';
  import { findDepartures, packageForms, specificationOf, type Order, type Specification } from '@mint-tally/core';
  import { askServer } from '$lib/asking/ask-server';
  import Dialog from '$lib/controls/Dialog.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { counted } from '$lib/text/format';

  let {
    order,
    specifications,
    follows = $bindable(),
    onchange,
  }: { order: Order; specifications: readonly Specification[]; follows: string; onchange: () => void } = $props();

  const chosen = $derived(specifications.find((one) => one.name === follows) ?? null);
  const choices = $derived([
    ['', 'follows none'] as const,
    ...specifications.map(({ name }) => [name, name] as const),
    ...(follows !== '' && !chosen ? [[follows, `${follows} (not saved here)`] as const] : []),
  ]);
  const departures = $derived(chosen ? findDepartures(order, chosen) : []);

  let open = $state(false);
  let entries = $state({
    name: '',
    minimumSamples: '',
    formats: '',
    depths: '',
    width: '',
    height: '',
    minimumPadding: '',
    naming: '',
    roles: '',
    packageForm: '',
  });
  let fields: Record<string, string> = $state({});
  let failure = $state('');
  let sending = $state(false);
  let deleting = $state(false);
  let followersText = $state('');

  function begin() {
    const from = chosen ?? specificationOf(order, '');
    const words = (list: readonly string[] | undefined) => list?.join(' ') ?? '';
    const text = (value: number | undefined) => (value === undefined ? '' : String(value));
    entries = {
      name: from.name,
      minimumSamples: text(from.minimumSamples),
      formats: words(from.formats),
      depths: words(from.depths),
      width: text(from.resolution?.[0]),
      height: text(from.resolution?.[1]),
      minimumPadding: text(from.minimumPadding),
      naming: from.naming ?? '',
      roles: words(from.roles),
      packageForm: from.packageForm ?? '',
    };
    fields = {};
    failure = '';
    open = true;
  }

  const number = (value: string) => (value.trim() === '' ? undefined : Number(value));
  const list = (value: string) => (value.trim() === '' ? undefined : value.trim().split(/[\s,]+/));

  async function save(event: SubmitEvent) {
    event.preventDefault();
    const { name, minimumSamples, formats, depths, width, height, minimumPadding, naming, roles, packageForm } = entries;
    const body = {
      name,
      minimumSamples: number(minimumSamples),
      formats: list(formats),
      depths: list(depths),
      minimumPadding: number(minimumPadding),
      naming: naming.trim() || undefined,
      roles: list(roles),
      packageForm: packageForm || undefined,
      resolution: width.trim() === '' && height.trim() === '' ? undefined : [number(width), number(height)],
    };
    if (sending) return;
    const answer = await ask('POST', body);
    if (answer === null) return;
    follows = name.trim();
    onchange();
    open = false;
    await invalidateAll();
  }

  /** Asks the server; null when it refuses, which is then told. */
  async function ask(method: 'GET' | 'POST' | 'DELETE', body: object | null, query = ''): Promise<unknown> {
    sending = true;
    fields = {};
    failure = '';
    const answer = await askServer(`/api/specifications${query}`, method, body);
    sending = false;
    if (answer.ok) return answer.value;
    fields = { ...answer.fields };
    failure = Object.keys(fields).length > 0 ? '' : answer.refused;
    return null;
  }

  /** Says which shots follow the specification before it goes. */
  async function beginDeleting() {
    deleting = true;
    followersText = 'Looking which shots follow it …';
    const answer = (await ask('GET', null, `?${new URLSearchParams({ name: follows }).toString()}`)) as { followers: string[] } | null;
    if (answer === null) followersText = '';
    else if (answer.followers.length === 0) followersText = 'No saved brief follows it.';
    else
      followersText = `${counted(answer.followers.length, 'shot')} ${answer.followers.length === 1 ? 'follows' : 'follow'} it: ${answer.followers.join(', ')}. Their briefs stay as they are, and will say that it is not saved here.`;
  }

  async function remove(event: SubmitEvent) {
    event.preventDefault();
    if (sending) return;
    if ((await ask('DELETE', null, `?${new URLSearchParams({ name: follows }).toString()}`)) === null) return;
    deleting = false;
    await invalidateAll();
  }

  /** The first message of an entry or of anything inside it. */
  const told = (name: string) => Object.entries(fields).find(([field]) => field === name || field.startsWith(`${name}.`))?.[1] ?? '';
</script>

<section class="border-b border-line" aria-label="Delivery">
  <h3 class="flex justify-between bg-ground px-4 py-1.5 text-[13px] text-soft">
    <span>Delivery</span>{#if chosen}<span class="figure">{departures.length}</span>{/if}
  </h3>
  <div class="flex gap-2 px-4 py-2.5">
    <Select label="Delivery specification" labelHidden bind:value={follows} {onchange} options={choices} />
    <button type="button" class="button button-small" onclick={begin}>{chosen ? 'Change…' : 'Save as…'}</button>
    {#if chosen}<button type="button" class="button button-small" onclick={beginDeleting}>Delete…</button>{/if}
  </div>
  {#if chosen && departures.length === 0}<p class="px-4 pb-2.5 text-[13px] text-soft">The order has all that {chosen.name} asks for.</p>{/if}
  {#if departures.length > 0}
    <ul class="space-y-1 px-4 pb-2.5 text-[13px]">
      {#each departures as departure (departure.field + departure.message)}
        <li class="flex gap-3" data-departure={departure.field}>
          <span class="mt-0.5"><StateMark state="odd" size={13} /></span><span class="min-w-0 [overflow-wrap:anywhere]">{departure.message}</span>
        </li>
      {/each}
    </ul>
  {/if}
</section>

<Dialog
  bind:open
  title="Delivery specification"
  text="The least that a receiver asks for. What is left empty is not asked. Any shot of the project can follow it."
  width="middle"
  main={{ label: 'Save specification', busy: sending }}
>
  {#snippet children(formId)}
    <form id={formId} class="grid grid-cols-4 gap-x-3 gap-y-1" onsubmit={save}>
      <div class="col-span-3"><TextField label="Name" bind:value={entries.name} problem={told('name')} field="specification.name" /></div>
      <TextField label="Samples, least" figure bind:value={entries.minimumSamples} problem={told('minimumSamples')} />
      <TextField label="Formats" figure bind:value={entries.formats} problem={told('formats')} />
      <TextField label="Depths" figure bind:value={entries.depths} problem={told('depths')} />
      <TextField label="Width" figure bind:value={entries.width} problem={told('resolution')} />
      <TextField label="Height" figure bind:value={entries.height} />
      <TextField label="Digits, least" figure bind:value={entries.minimumPadding} problem={told('minimumPadding')} />
      <div class="col-span-2"><TextField label="Roles that must be there" figure bind:value={entries.roles} problem={told('roles')} /></div>
      <Select label="Package" bind:value={entries.packageForm} options={[['', 'any form'], ...packageForms.map((form) => [form, form] as const)]} />
      <div class="col-span-4">
        <TextField label="Naming" figure bind:value={entries.naming} problem={told('naming')} placeholder={'{pass}/{shot}_{version}_{pass}.####.exr'} />
      </div>
      {#if failure}<div class="col-span-4"><Problem message={failure} /></div>{/if}
    </form>
  {/snippet}
</Dialog>

<Dialog bind:open={deleting} title="Delete {follows}" text={followersText} main={{ label: 'Delete specification', busy: sending, grave: true }}>
  {#snippet children(formId)}
    <form id={formId} onsubmit={remove}>
      {#if failure}<Problem message={failure} />{/if}
    </form>
  {/snippet}
</Dialog>
