<!-- The counts that are kept of a shot. -->
<script lang="ts">
  import type { ShotState } from '$lib/server/shot-state';
  import { counted, formatCount, formatMoment } from '$lib/text/format';
  import { historySchema, type CountEntry } from './history';

  let { state: shot }: { state: ShotState } = $props();

  /** Changes with a new count alone, not with everything that is read anew. */
  const countedAt = $derived(shot.count?.at);
  const shotId = $derived(shot.shot.id);
  let counts: readonly CountEntry[] | null = $state(null);
  let failure = $state('');

  $effect(() => {
    void countedAt;
    const stop = new AbortController();
    fetch(`/shots/${shotId}/history`, { signal: stop.signal })
      .then(async (response) => {
        if (!response.ok) throw new Error('The counts could not be had; the server refused.');
        counts = historySchema.parse(await response.json());
        failure = '';
      })
      .catch((thrown: unknown) => {
        if (!stop.signal.aborted) failure = thrown instanceof Error ? thrown.message : String(thrown);
      });
    return () => stop.abort();
  });

  function changeText({ changes }: CountEntry): string {
    if (!changes) return 'first count';
    const parts = (['arrived', 'replaced', 'vanished'] as const).flatMap((kind) =>
      changes[kind].count > 0 ? [`${formatCount(changes[kind].count)} ${kind}`] : [],
    );
    return parts.join(', ') || 'nothing';
  }
</script>

<div class="min-h-0 flex-1 overflow-y-auto px-4.5 py-3">
  {#if failure}<p class="text-bad">{failure}</p>
  {:else if counts && counts.length === 0}<p class="text-soft">Nothing has been counted yet.</p>
  {:else if counts}
    <table class="w-full text-[13px]">
      <thead class="text-left text-soft">
        <tr class="border-b border-line">
          <th class="py-1 font-normal">Counted</th><th class="py-1 font-normal">Sound</th><th class="py-1 font-normal">Findings</th><th class="py-1 font-normal"
            >Changed since the one before</th
          ><th class="py-1 font-normal">Brief</th><th class="py-1 font-normal">Asked by</th>
        </tr>
      </thead>
      <tbody>
        {#each counts as count (count.id)}
          <tr class="border-b border-line">
            <td class="figure py-1">{formatMoment(count.countedAt)}</td>
            <td class="figure py-1">{formatCount(count.sound)} of {formatCount(count.expected)}</td>
            <td class="py-1">{counted(count.findings, 'finding')}{count.blockers > 0 ? `, ${counted(count.blockers, 'blocker')}` : ''}</td>
            <td class="py-1">{changeText(count)}</td>
            <td class="figure py-1">v{count.briefVersion}</td>
            <td class="py-1">{count.actor}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>
