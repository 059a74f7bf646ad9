<!-- The list of what is wrong or odd with the shot, grouped by what to do next. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { acceptFinding, denoisedPasses, findingCodes, severities } from '@mint-tally/core';
  import Select from '$lib/controls/Select.svelte';
  import NoteList from '$lib/notes/NoteList.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import { counted } from '$lib/text/format';
  import FindingRow from './FindingRow.svelte';
  import WaiveDialog from './WaiveDialog.svelte';
  import type { Waiving } from './waiving';
  import { familyTitles, groupFindings, matches, passesOf, severityTitles, type DocketEntry, type DocketFilter } from './groups';

  let { state: shot }: { state: ShotState } = $props();

  const view = useShotView();
  let filter: DocketFilter = $state({ family: '', pass: '', severity: '' });
  let waiving: Waiving | null = $state(null);

  const groups = $derived(groupFindings(shot.findings.filter((finding) => matches(finding, filter))));
  const blockers = $derived(shot.findings.filter((finding) => finding.severity === 'blocker' && !finding.waiver).length);
  const denoised = $derived(denoisedPasses(shot.brief));
  const isFiltered = $derived(filter.family !== '' || filter.pass !== '' || filter.severity !== '');
  const families = $derived([...new Set(shot.findings.map((finding) => finding.family))]);
  const passes = $derived(shot.lanes.map((lane) => lane.pass));

  const openNotes = $derived(shot.notes.filter((note) => note.closed === null));
  const closedNotes = $derived(shot.notes.filter((note) => note.closed !== null));

  // The keys travel along what is shown.
  $effect(() => {
    const entries = groups.flatMap((group) => group.entries);
    view.docket = {
      keys: entries.map((entry) => entry.key),
      choose: (key) =>
        choose(
          entries.find((entry) => entry.key === key)!,
          true,
        ),
    };
    return () => (view.docket = null);
  });
  const summary = $derived(
    shot.findings.length === 0
      ? ''
      : `${counted(shot.findings.length, 'finding')}, ${blockers === 0 ? 'none stops' : blockers === 1 ? '1 stops' : `${blockers} stop`} the handoff`,
  );

  function choose(entry: DocketEntry, stay = false) {
    view.chosen = view.chosen === entry.key && !stay ? null : entry.key;
    const [finding] = entry.findings;
    if (view.chosen === null) return;
    const { frames } = finding;
    if (frames.isEmpty) {
      // What concerns no frame leaves none selected from the finding before.
      view.clearSelection();
      return;
    }
    if (finding.pass) view.choosePass(finding.pass);
    view.goTo(frames.first!);
    view.selectFrames(frames);
  }

  function askToWaive(entry: DocketEntry) {
    const [finding] = entry.findings;
    waiving = {
      subjects: entry.findings.map(acceptFinding),
      title: `Waive: ${findingCodes[finding.code].title}`,
      what: `${passesOf(entry, shot.lanes.length)} ${finding.frames}. ${finding.message} It stands again when more frames join it.`,
    };
  }
</script>

<aside class="flex min-h-0 w-[334px] shrink-0 flex-col border-l border-line bg-raised small:w-full small:border-t small:border-l-0" aria-label="Docket">
  <header class="flex items-baseline justify-between gap-2 border-b border-line px-4 py-3">
    <h2 class="font-bold">Docket</h2>
    <span class="text-[13px] text-soft">{summary}</span>
  </header>
  {#if shot.findings.length > 1}
    <div class="flex items-center gap-1.5 border-b border-line px-4 py-1.5 text-[13px]">
      {@render choice(
        'Family',
        'family',
        families.map((family) => [family, familyTitles[family]]),
      )}
      {@render choice(
        'Pass',
        'pass',
        passes.map((pass) => [pass, pass]),
      )}
      {@render choice(
        'Severity',
        'severity',
        severities.map((severity) => [severity, severityTitles[severity]]),
      )}
      {#if isFiltered}<button
          type="button"
          class="ml-auto rounded p-1 text-soft hover:bg-hover hover:text-ink"
          onclick={() => (filter = { family: '', pass: '', severity: '' })}
          aria-label="Show all findings"
          title="Show all findings"><X size={14} aria-hidden="true" /></button
        >{/if}
    </div>
  {/if}
  <div class="min-h-0 flex-1 overflow-y-auto">
    {#if isFiltered && groups.length === 0 && shot.findings.length > 0}
      <p class="p-4 text-soft">
        None of the {counted(shot.findings.length, 'finding')} is like that.
        <button type="button" class="underline" onclick={() => (filter = { family: '', pass: '', severity: '' })}>Show all</button>
      </p>
    {/if}
    {#if shot.count === null}
      <p class="p-4 text-soft">Nothing has been counted yet. The first count fills this list.</p>
    {:else if shot.count.stale}
      <p class="p-4 text-soft">The brief changed after the last count. Count again to see what stands against it.</p>
    {:else if shot.findings.length === 0}
      <p class="p-4 text-soft">Nothing is wrong: every ordered frame is there once, whole, rightly named and of the right kind.</p>
    {/if}
    {#if openNotes.length > 0}
      <section aria-label="Notes">
        <h3 class="flex justify-between border-b border-line bg-ground px-4 py-1.5 text-[13px] text-soft">
          <span>Notes</span><span class="figure">{openNotes.length}</span>
        </h3>
        <NoteList notes={openNotes} shotId={shot.shot.id} viewLink />
      </section>
    {/if}
    {#each groups as group (group.title)}
      <section aria-label={group.title}>
        <h3 class="flex justify-between border-b border-line bg-ground px-4 py-1.5 text-[13px] text-soft">
          <span>{group.title}</span><span class="figure">{group.entries.length}</span>
        </h3>
        <ul>
          {#each group.entries as entry (entry.key)}
            <FindingRow
              {entry}
              frames={view.model.frames}
              passCount={shot.lanes.length}
              {denoised}
              shotId={shot.shot.id}
              chosen={view.chosen === entry.key}
              onchoose={() => choose(entry)}
              onwaive={() => askToWaive(entry)}
            />
          {/each}
        </ul>
      </section>
    {/each}
    {#if closedNotes.length > 0}
      <details>
        <summary class="border-b border-line bg-ground px-4 py-1.5 text-[13px] text-soft">Closed notes <span class="figure">{closedNotes.length}</span></summary
        >
        <NoteList notes={closedNotes} shotId={shot.shot.id} viewLink />
      </details>
    {/if}
  </div>
</aside>

{#snippet choice(label: string, name: keyof DocketFilter, options: readonly (readonly [string, string])[])}
  <Select look="filter" {label} labelHidden bind:value={filter[name]} options={[['', `${label}: all`], ...options]} />
{/snippet}

<WaiveDialog bind:waiving />
