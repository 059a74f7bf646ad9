<script lang="ts">
  import { enhance } from '$app/forms';
  import { acceptFinding, gateOfFamily, isMeasured, leftToWatch, type Gate, type GateName } from '@mint-tally/core';
  import { gateQuestions, gateStates } from '$lib/coin/gates';
  import GateMark from '$lib/coin/GateMark.svelte';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';
  import WaiveDialog from '$lib/docket/WaiveDialog.svelte';
  import type { Waiving } from '$lib/docket/waiving';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import { person, rememberPerson } from '$lib/shot/person.svelte';
  import { counted, sayBytes, formatMoment } from '$lib/text/format';

  let { data, form } = $props();

  const live = useLive();
  const shot = $derived(data.state);
  const job = $derived(live.active(shot.shot.id, 'package'));
  const last = $derived(live.job(shot.shot.id, 'package'));
  const openGates = $derived(shot.gates.filter((gate) => gate.state === 'open' || gate.state === 'unmeasured'));
  /** What a person can sign off: no findings hold it open. */
  const byPerson = $derived(openGates.filter((gate) => !isMeasured(gate.name)));
  const fields: Record<string, string> = $derived(form && 'fields' in form ? ((form.fields as Record<string, string>) ?? {}) : {});

  /** What somebody typed; the proposal until then, which may change meanwhile. */
  let typedFolder: string | null = $state(null);
  let typedRoot: string | null = $state(null);
  let waiving: Waiving | null = $state(null);

  function closeByHand(gates: readonly Gate[]) {
    const content = shot.count?.content ?? '';
    waiving = {
      subjects: gates.map((gate) => ({ kind: 'gate', gate: gate.name, content })),
      title: gates.length === 1 ? `Sign off: ${gates[0].name}` : `Sign off: ${gates.map(({ name }) => name).join(', ')}`,
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
    if (gate.waived > 0) parts.push(`${gate.waived} waived`);
    const waiver = waiverOf(gate);
    if (waiver) parts.push(`${waiver.person}: ${waiver.reason}`);
    return parts.join(', ') || 'Measured; nothing stands';
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
    if (waiver && gate.state === 'waived') parts.push(`${waiver.person}: ${waiver.reason}`);
    return parts.join(', ');
  }

  function waiverOf(gate: Gate) {
    return shot.waivers.findLast(({ subject }) => subject.kind === 'gate' && subject.gate === gate.name && subject.content === shot.count?.content) ?? null;
  }
</script>

<svelte:head><title>{shot.shot.name}: handoff · Mint Tally</title></svelte:head>

<div class="flex min-h-0 flex-1 small:flex-col">
  <main class="min-w-0 flex-1 overflow-y-auto px-4.5 py-4">
    <h2 class="text-[20px] font-bold">
      {#if shot.handedOver}Handed over{:else if shot.ready}Ready to hand over{:else}{counted(openGates.length, 'gate')} still open{/if}
    </h2>
    <table class="mt-3 w-full border-collapse text-left">
      <tbody>
        {#each shot.gates as gate (gate.name)}
          {@const waiver = waiverOf(gate)}
          <tr class="border-y border-line" data-gate={gate.name} data-state={gate.state}>
            <td class="w-9 py-2"><GateMark state={gate.state} /></td>
            <th scope="row" class="w-[110px] font-bold">{gate.name}<span class="sr-only">: {gateStates[gate.state].title}</span></th>
            <td class="py-2 pr-3">
              <div>{gateQuestions[gate.name]}</div>
              <div class={['text-[13px]', gate.state === 'open' ? 'font-bold' : 'text-soft']}>{sayOf(gate)}</div>
            </td>
            <td class="w-[190px] py-2 text-right whitespace-nowrap">
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
        <button type="button" class="button button-small" onclick={() => closeByHand(byPerson)}>Sign off: {byPerson.map(({ name }) => name).join(', ')}…</button
        >
      </p>
    {/if}
  </main>

  <aside
    class="flex w-[420px] shrink-0 flex-col overflow-y-auto border-l border-line bg-raised px-5 py-4 max-[1100px]:w-[340px] small:w-full small:border-t small:border-l-0"
    aria-label="Package"
  >
    <h2 class="text-[17px] font-bold">Package</h2>
    <p class="mt-1 text-[13px] text-soft">
      A folder by BagIt (RFC 8493): the frames, brief and tally in <span class="figure">data/</span>, and checksums that the other side can verify. The frames
      are counted once more before they are copied.
    </p>
    {#if job}
      <div class="mt-4"><JobBar {job} wide waits={live.waits(shot.shot.id, 'package')} /></div>
    {:else}
      <form
        method="POST"
        action="?/package"
        class="mt-4 space-y-3"
        use:enhance={() => {
          rememberPerson();
          return async ({ result, update }) => {
            if (result.type === 'success') typedFolder = typedRoot = null;
            await update({ reset: false });
          };
        }}
      >
        <Select
          label="Into"
          name="root"
          disabled={data.roots.length === 0}
          bind:value={() => typedRoot ?? data.proposedRoot, (value) => (typedRoot = value)}
          options={data.roots.map((root) => [root.name, `${root.name} (${root.path})`])}
        />
        <TextField
          label="Folder"
          name="folder"
          figure
          bind:value={() => typedFolder ?? data.proposedFolder, (value) => (typedFolder = value)}
          problem={fields.folder}
        />
        <TextField label="Handed over by" name="person" bind:value={person.name} autocomplete="name" problem={fields.person} />
        <div class="flex items-center gap-3">
          <button type="submit" class="button button-main" disabled={!shot.ready || data.roots.length === 0}>Write package</button>
        </div>
        {#if !shot.ready}<p class="text-[13px] text-soft" data-testid="refusal">{shot.refusal}</p>{/if}
        {#if data.roots.length === 0}<Problem message="No root may be written." remedy="Mark one as writable in mint-tally.config.json." />{/if}
      </form>
      {#if last?.state === 'failed' && last.error}<div class="mt-3"><Problem message={last.error.message} remedy={last.error.remedy} /></div>
      {:else if last?.state === 'cancelled'}<p class="mt-3 text-[13px] text-soft">The last package was stopped; nothing of it was left behind.</p>{/if}
    {/if}

    {#if shot.packages.length > 0}
      <h3 class="mt-6 font-bold">Written</h3>
      <ul>
        {#each shot.packages as written (written.id)}
          {@const root = data.roots.find((candidate) => candidate.name === written.root)}
          <li class="border-t border-line py-3 first:border-t-0">
            <div class="figure break-all">{root ? `${root.path}/` : `${written.root}: `}{written.folder}</div>
            <div class="mt-0.5 text-[13px] text-soft">
              {counted(written.files, 'file')}, {sayBytes(written.bytes)}; {written.actor}, {formatMoment(written.createdAt)}
            </div>
            <div class="mt-2 flex flex-wrap gap-2">
              {#if root}<CopyButton small text="cd '{root.path}/{written.folder}' && sha256sum -c manifest-sha256.txt" label="Copy verify command" />{/if}
              <CopyButton small text={written.manifestSha256} label="Copy manifest checksum" />
            </div>
          </li>
        {/each}
      </ul>
    {/if}
  </aside>
</div>

<WaiveDialog bind:waiving />
