<!-- The seven gates: what each asks, what closed it or holds it open, and the one action that leads on. -->
<script lang="ts">
  import { enhance } from '$app/forms';
  import { acceptFinding, gateOfFamily, isMeasured, type Gate, type GateName } from '@mint-tally/core';
  import { gateQuestions, gateStates } from '$lib/coin/gates';
  import { sayGate, waiverOf } from '$lib/coin/say-gate';
  import GateMark from '$lib/coin/GateMark.svelte';
  import WaiveDialog from '$lib/docket/WaiveDialog.svelte';
  import type { Waiving } from '$lib/docket/waiving';
  import type { ShotState } from '$lib/server/shot-state';
  import { counted } from '$lib/text/format';

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
</script>

<table class="mt-3 w-full border-collapse text-left" aria-label="Gates">
  <tbody>
    {#each shot.gates as gate (gate.name)}
      {@const waiver = waiverOf(shot, gate)}
      <tr class="border-y border-line" data-gate={gate.name} data-state={gate.state}>
        <td class="w-9 py-1.5"><GateMark state={gate.state} /></td>
        <th scope="row" class="w-[100px] font-bold">{gate.name}<span class="sr-only">: {gateStates[gate.state].title}</span></th>
        <td class="py-1.5 pr-3">
          <div>{gateQuestions[gate.name]}</div>
          <div class={['text-[13px]', gate.state === 'open' ? 'font-bold' : 'text-soft']}>{sayGate(shot, gate)}</div>
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
