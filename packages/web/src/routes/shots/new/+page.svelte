<script lang="ts">
  import { enhance } from '$app/forms';
  import { briefSchema } from '@mint-tally/core';
  import * as z from 'zod';
  import BriefForm from '$lib/brief/BriefForm.svelte';
  import BriefSums from '$lib/brief/BriefSums.svelte';
  import { briefInput, draftOf, emptyDraft, type BriefDraft } from '$lib/brief/draft';
  import { FieldProblems } from '$lib/brief/field-problems.svelte';
  import Brand from '$lib/controls/Brand.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import ThemeButton from '$lib/controls/ThemeButton.svelte';
  import FolderPicker from '$lib/folders/FolderPicker.svelte';
  import OpenPackage, { type ArrivedView } from '$lib/handoff/OpenPackage.svelte';
  import { counted, sayBytes } from '$lib/text/format';

  let { data, form } = $props();

  const packageSchema = z.object({
    package: z.object({ shot: z.string(), version: z.string(), range: z.string(), passes: z.number(), name: z.string() }),
  });
  const proposalSchema = z.object({
    brief: briefSchema.nullable(),
    files: z.number(),
    bytes: z.number(),
    place: z.object({ folder: z.string(), freeBytes: z.number() }).nullable(),
  });

  let place: { root: string; path: string } | null = $state(null);
  let draft: BriefDraft = $state(emptyDraft(''));
  let disk: { folder: string; freeBytes: number } | null = $state(null);
  /** The package that was chosen, where it was one. */
  let arrived: ArrivedView | null = $state(null);
  let looking = $state(false);
  let found = $state('');
  let failure: { message: string; remedy: string } | null = $state(null);
  const fields: Record<string, string> = $derived((form?.fields as Record<string, string>) ?? {});

  const problems = new FieldProblems(
    () => draft,
    () => fields,
  );

  async function choose(root: string, path: string) {
    looking = true;
    failure = null;
    try {
      const response = await fetch(`/api/proposal?${new URLSearchParams({ root, path }).toString()}`);
      const body: unknown = await response.json();
      if (!response.ok) {
        failure = body as { message: string; remedy: string };
        return;
      }
      const isPackage = packageSchema.safeParse(body);
      arrived = isPackage.success ? { ...isPackage.data.package, root, folder: path } : null;
      if (isPackage.success) return;
      const proposal = proposalSchema.parse(body);
      const name = path.split('/').at(-1) || root;
      draft = proposal.brief ? draftOf(proposal.brief, '') : emptyDraft(name);
      found = proposal.brief
        ? `Found ${counted(proposal.files, 'file')}, ${sayBytes(proposal.bytes)}, in ${counted(proposal.brief.passes.length, 'sequence')}. This is what they look like; put right what was ordered otherwise.`
        : `${proposal.files === 0 ? 'The folder is empty' : 'The folder holds no numbered pictures'}, so there is nothing to propose. Write down what is ordered; the frames may come later.`;
      disk = proposal.place;
      place = { root, path };
    } finally {
      looking = false;
    }
  }
</script>

<svelte:head><title>New shot · Mint Tally</title></svelte:head>

<header class="flex h-[46px] shrink-0 items-center gap-5 border-b border-line bg-bar px-4">
  <Brand />
  <div>
    <a href="/" class="text-soft underline decoration-control underline-offset-3 hover:text-ink">{data.project.name}</a><span class="mx-1.5 text-soft">/</span>
    <h1 class="inline font-bold">New shot</h1>
  </div>
  <span class="flex-1"></span>
  <ThemeButton />
</header>

{#if arrived}
  <OpenPackage {arrived} {fields} onleave={() => (arrived = null)} />
{:else if !place}
  <main class="flex min-h-0 flex-1 flex-col px-4.5 py-4">
    <h2 class="text-[20px] font-bold">Which folder holds the frames?</h2>
    <p class="mt-1 mb-3 text-soft">
      The folder of one shot, with its passes in it; or a package that has arrived: it is verified, and counted against the brief that came with it. What may be
      read is set in <span class="figure">mint-tally.config.json</span>.
    </p>
    {#if failure}<div class="mb-3"><Problem message={failure.message} remedy={failure.remedy} /></div>{/if}
    {#if looking}<p class="mb-3" role="status">Looking through the folder …</p>{/if}
    <FolderPicker roots={data.roots} onchoose={choose} />
  </main>
{:else}
  <form
    method="POST"
    action="?/save"
    class="flex min-h-0 flex-1 flex-col"
    use:enhance={() =>
      ({ update }) =>
        update({ reset: false })}
  >
    <div class="flex min-h-0 flex-1 small:flex-col">
      <main class="min-w-0 flex-1 overflow-y-auto px-4.5 py-4">
        <h2 class="text-[20px] font-bold">What was ordered?</h2>
        <p class="mt-1 text-soft">{found}</p>
        <p class="mt-1 mb-4 text-[13px] text-soft">
          Folder <span class="figure text-ink">{place.root}{place.path ? `/${place.path}` : ''}</span>
          <button type="button" class="ml-2 underline hover:text-ink" onclick={() => (place = null)}>choose another</button>
        </p>
        {#if fields['']}<div class="mb-3"><Problem message={fields['']} /></div>{/if}
        <BriefForm bind:draft {problems} {place} onchange={() => problems.changed()} />
      </main>
      <BriefSums
        brief={problems.reading.brief}
        folder={disk?.folder ?? null}
        freeBytes={disk?.freeBytes ?? null}
        meanBytes={{}}
        specifications={data.specifications}
        bind:follows={draft.follows}
        onchange={() => problems.changed()}
      />
    </div>
    <input type="hidden" name="root" value={place.root} />
    <input type="hidden" name="folder" value={place.path} />
    <input type="hidden" name="note" value={draft.note} />
    <input type="hidden" name="brief" value={JSON.stringify(briefInput(draft))} />
    <footer class="flex shrink-0 items-center gap-3 border-t border-line bg-bar px-4.5 py-3">
      <button type="submit" class="button button-main">Save and count</button>
      <a class="button" href="/">Cancel</a>
      {#if Object.keys(fields).length > 0}<span role="alert" class="text-bad"
          >Not saved: {counted(Object.keys(fields).length, 'entry').replace('entrys', 'entries')} to put right.</span
        >{/if}
    </footer>
  </form>
{/if}
