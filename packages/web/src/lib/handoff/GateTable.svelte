<!-- The seven gates: what each asks, what closed it or holds it open, and the one action that leads on. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { acceptFinding, gateOfFamily, isMeasured, leftToWatch, type Gate, type GateName } from '@mint-tally/core';
  import { gateQuestions, gateStates } from '$lib/coin/gates';
  import GateMark from '$lib/coin/GateMark.svelte';
  import WaiveDialog from '$lib/docket/WaiveDialog.svelte';
  import type { Waiving } from '$lib/docket/waiving';
  import type { ShotState } from '$lib/server/shot-state';
  import { counted, formatMoment } from '$lib/text/format';

  let { state: shot }: { state: ShotState } = $props();

  const openGates = $derived(shot.gates.filter((gate) => gate.state === 'open' || gate.state === 'unmeasured'));
  /** What a person can sign off: no findings hold it open. */
  const byPerson = $derived(openGates.filter((gate) => !isMeasured(gate.name)));
  let waiving: Waiving | null = $state(null);

  function closeByHand(gates: readonly Gate[]) {
    const content = shot.count?.content ?? '';
    waiving = {
      subjects: gates.map((gate) => ({ kind: 'gate', gate: gate.name, content })),
      title: gates.length === 1 ? `Sign off: ${gates[0]!.name}` : `Sign off: ${gates.map(({ name }) => name).join(', ')}`,
      what: `${gates.map((gate) => gateQuestions[gate.name]).join('. ')}. No measurement says so, and a person answers for it: for the frames as they were counted, until one of them changes.`,
    };
  }

  function waiveBlockers(gate: GateName) {
    const blockers = shot.findings.filter((finding) => finding.severity === 'blocker' && !finding.waiver && gateOfFamily(finding.family) === gate);
    waiving = {
      subjects: blockers.map(acceptFinding),
      title: `Waive: ${counted(blockers.length, 'finding')} of ${gate}`,
      what: blockers.map((finding) => `${finding.pass ?? ''} ${finding.frames}: ${finding.message}`.trim()).join(' '),
    };
  }

  function sayOf(gate: Gate): string {
    const before = shot.reopened.find((one) => one.gate === gate.name);
    if (before) {
      const since = before.changes === '' ? 'The frames are others now.' : `Since then: ${before.changes}.`;
      return `Open again: ${before.person} closed it ${formatMoment(before.at)} for the frames as they were. ${since}`;
    }
    if (gate.name === 'eyes') return sayEyes(gate);
    if (gate.state === 'unmeasured')
      return shot.count === null || shot.count.stale ? 'Not counted yet' : 'Not measured yet; the assay closes it, or a person signs it off';
    const parts = [];
    if (gate.blockers > 0) parts.push(`${counted(gate.blockers, 'finding')} ${gate.blockers === 1 ? 'stops' : 'stop'} the handoff`);
    if (gate.warnings > 0) parts.push(counted(gate.warnings, 'warning'));
    if (gate.waived > 0) parts.push(`${gate.waived} waived by ${whoWaived(gate.name)}`);
    const waiver = waiverOf(gate);
    if (waiver) parts.push(`${waiver.person}, ${formatMoment(waiver.createdAt)}: ${waiver.reason}`);
    return parts.join(', ') || sayMeasured(gate.name);
  }

  /** Who accepted findings of a gate, when and why. */
  function whoWaived(name: GateName): string {
    const ids = new Set(shot.findings.flatMap(({ family, waiver }) => (waiver && gateOfFamily(family) === name ? [waiver.id] : [])));
    const said = shot.waivers.filter(({ id }) => ids.has(id)).map(({ person, createdAt, reason }) => `${person}, ${formatMoment(createdAt)}: ${reason}`);
    return [...new Set(said)].join('; ');
  }

  /** What a measurement closed, with its figures. */
  function sayMeasured(name: GateName): string {
    const { count } = shot;
    const ordered = shot.lanes.reduce((sum, { states }) => sum + states.length, 0);
    if (name === 'count' && count)
      return `${counted(ordered, 'frame')} of ${shot.lanes.length} ${shot.lanes.length === 1 ? 'pass' : 'passes'}, counted ${formatMoment(count.at)}`;
    if (name === 'soundness' && count) return `All ${counted(count.files, 'file')} opened and read to the end`;
    if (shot.assay && (name === 'noise' || name === 'passes')) return `Measured ${formatMoment(shot.assay.at)}; nothing stands`;
    return 'Measured; nothing stands';
  }

  /** What has been watched, pass by pass; who did; who signed for it instead. */
  function sayEyes(gate: Gate): string {
    if (shot.count === null || shot.count.stale) return 'Not counted yet';
    const wanted = shot.eyes.filter((one) => one.wanted);
    if (wanted.length === 0) return 'The brief asks for no pass to be watched';
    const parts = wanted.map((one) => {
      const left = leftToWatch(one);
      const files = one.watched.size + left.size;
      return left.isEmpty ? `${one.pass}: all ${counted(files, 'frame')} watched` : `${one.pass}: ${one.watched.size} of ${counted(files, 'frame')} watched`;
    });
    if (shot.watchers.length > 0) parts.push(`by ${shot.watchers.join(', ')}`);
    const waiver = waiverOf(gate);
    if (waiver && gate.state === 'waived') parts.push(`${waiver.person}, ${formatMoment(waiver.createdAt)}: ${waiver.reason}`);
    return parts.join(', ');
  }

  function waiverOf(gate: Gate) {
    return shot.waivers.findLast(({ subject }) => subject.kind === 'gate' && subject.gate === gate.name && subject.content === shot.count?.content) ?? null;
  }
</script>

<table class="mt-3 w-full border-collapse text-left" aria-label="Gates">
  <tbody>
    {#each shot.gates as gate (gate.name)}
      {@const waiver = waiverOf(gate)}
      <tr class="border-y border-line" data-gate={gate.name} data-state={gate.state}>
        <td class="w-9 py-1.5"><GateMark state={gate.state} /></td>
        <th scope="row" class="w-[100px] font-bold">{gate.name}<span class="sr-only">: {gateStates[gate.state].title}</span></th>
        <td class="py-1.5 pr-3">
          <div>{gateQuestions[gate.name]}</div>
          <div class={['text-[13px]', gate.state === 'open' ? 'font-bold' : 'text-soft']}>{sayOf(gate)}</div>
        </td>
        <td class="w-[176px] py-1.5 text-right whitespace-nowrap">
          {#if gate.state === 'open' && isMeasured(gate.name)}
            <a class="button button-small" href="/shots/{shot.shot.id}/tally">Look</a>
            <button type="button" class="button button-small" onclick={() => waiveBlockers(gate.name)}>Waive…</button>
          {:else if (gate.state === 'unmeasured' || gate.state === 'open') && !isMeasured(gate.name)}
            {#if gate.name === 'eyes'}<a class="button button-small" href="/shots/{shot.shot.id}/view">Watch</a>
            {:else if gate.name === 'noise' || gate.name === 'passes'}<a class="button button-small" href="/shots/{shot.shot.id}/assay">Measure</a>{/if}
            <button type="button" class="button button-small" disabled={shot.count === null || shot.count.stale} onclick={() => closeByHand([gate])}
              >Sign off…</button
            >
          {:else if waiver}
            <form method="POST" action="?/withdraw" use:enhance>
              <input type="hidden" name="waiver" value={waiver.id} /><button type="submit" class="button button-small">Withdraw</button>
            </form>
          {/if}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
{#if byPerson.length > 1 && shot.count !== null && !shot.count.stale}
  <p class="mt-3 flex justify-end">
    <button type="button" class="button button-small" onclick={() => closeByHand(byPerson)}>Sign off: {byPerson.map(({ name }) => name).join(', ')}…</button>
  </p>
{/if}

<WaiveDialog bind:waiving />
