<!-- The brief as a form. What is wrong with an entry is told at its field, while it is typed and when it is saved. -->
<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { alphaKinds, durationSeconds, formatTimecode, parseFrameRange, parseFrameRate, passRoles, sampleDepths } from '@mint-tally/core';
  import TextField from '$lib/controls/TextField.svelte';
  import { countOf } from '$lib/text/format';
  import { draftProblems, newPass, type BriefDraft } from './draft';

  let { draft = $bindable(), told }: { draft: BriefDraft; told: Record<string, string> } = $props();

  // The server's words stand until the draft changes; then the form's own take over.
  let changed = $state(false);
  $effect(() => {
    void told;
    changed = false;
  });
  const problems = $derived(changed || Object.keys(told).length === 0 ? draftProblems(draft) : told);
  // An entry that nobody has touched is not scolded for being empty.
  let touched: Record<string, true> = $state({});
  const shown = (field: string) => (touched[field] || Object.keys(told).length > 0 ? (problems[field] ?? '') : '');

  /** What every entry needs: its name, what is wrong with it, and to be noticed when it is left. */
  const entry = (field: string) => ({ field, problem: shown(field), onblur: () => (touched[field] = true) });

  const duration = $derived.by(() => {
    try {
      const frames = parseFrameRange(draft.range);
      const count = countOf(frames.size, 'frame');
      if (draft.fps.trim() === '') return count;
      const rate = parseFrameRate(draft.fps);
      return `${count}, ${formatTimecode(frames.size, rate)} (${durationSeconds(frames.size, rate).toFixed(2)} s)`;
    } catch {
      return '';
    }
  });

  const depthTitles: Record<string, string> = { 8: '8 bit', 10: '10 bit', 12: '12 bit', 16: '16 bit', half: 'half', float: 'float', uint: 'uint' };
</script>

{#snippet problem(field: string)}
  <span id="problem-{field}" class="block text-[13px] text-bad" data-problem={field}>{shown(field)}</span>
{/snippet}

<div oninput={() => (changed = true)}>
  <div class="grid grid-cols-[200px_1fr] gap-x-4 gap-y-2">
    <TextField label="Shot" bind:value={draft.shot} {...entry('shot')} />
    <TextField label="What it is (a note for people)" bind:value={draft.note} maxlength={500} />
  </div>
  <div class="mt-2 grid grid-cols-[minmax(0,1fr)_120px_110px_110px_120px] gap-x-4">
    <TextField label="Frame range" figure bind:value={draft.range} placeholder="1001-1096 or 1-100x2,120" {...entry('range')}>
      {#snippet hint()}<span class="figure truncate text-[13px]" aria-live="polite">{duration}</span>{/snippet}
    </TextField>
    <TextField label="Frame rate" figure bind:value={draft.fps} list="frame-rates" placeholder="not checked" {...entry('fps')} />
    <TextField label="Width" figure bind:value={draft.width} inputmode="numeric" placeholder="not checked" {...entry('resolution.0')} />
    <TextField label="Height" figure bind:value={draft.height} inputmode="numeric" placeholder="not checked" {...entry('resolution.1')} />
    <TextField label="Pixel aspect" figure bind:value={draft.pixelAspect} inputmode="decimal" placeholder="not checked" {...entry('pixelAspect')} />
  </div>
  <datalist id="frame-rates"
    >{#each ['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60'] as rate (rate)}<option value={rate}></option>{/each}</datalist
  >

  <h2 class="mt-5 mb-1 flex items-center justify-between font-bold">
    <span>Passes</span>
    <button
      type="button"
      class="button button-small"
      onclick={() => {
        draft.passes.push(newPass());
        changed = true;
      }}><Plus size={14} aria-hidden="true" />Add pass</button
    >
  </h2>
  {@render problem('passes')}
  <table class="w-full table-fixed border-collapse text-left align-top">
    <thead>
      <tr class="border-b border-line text-[13px] text-soft">
        <th class="w-[118px] py-1 font-normal">Name</th>
        <th class="w-[108px] py-1 font-normal">Role</th>
        <th class="py-1 font-normal">Name pattern, #### for the frame</th>
        <th class="w-[112px] py-1 font-normal">Channels</th>
        <th class="w-[92px] py-1 font-normal">Depth</th>
        <th class="w-[112px] py-1 font-normal">Compression</th>
        <th class="w-[132px] py-1 font-normal">Alpha</th>
        <th class="w-[112px] py-1 font-normal" title="Where it differs from the shot's">Own range</th>
        <th class="w-8"><span class="sr-only">Remove</span></th>
      </tr>
    </thead>
    <tbody>
      {#each draft.passes as pass, index (pass.key)}
        {@const at = `passes.${index}`}
        <tr class="border-b border-line align-top [&>td]:py-1.5 [&>td]:pr-1.5">
          <td
            ><input
              class="field"
              bind:value={pass.name}
              aria-label="Name of pass {index + 1}"
              onblur={() => (touched[`${at}.name`] = true)}
              aria-invalid={shown(`${at}.name`) !== ''}
              aria-describedby="problem-{at}.name"
            />{@render problem(`${at}.name`)}</td
          >
          <td
            ><select class="field" bind:value={pass.role} aria-label="Role of {pass.name}"
              ><option value="">not said</option>{#each passRoles as role (role)}<option>{role}</option>{/each}</select
            ></td
          >
          <td
            ><input
              class="field figure text-[13px]"
              bind:value={pass.pattern}
              spellcheck="false"
              aria-label="Name pattern of {pass.name}"
              title={pass.pattern}
              onblur={() => (touched[`${at}.pattern`] = true)}
              aria-invalid={shown(`${at}.pattern`) !== ''}
              aria-describedby="problem-{at}.pattern"
            />{@render problem(`${at}.pattern`)}</td
          >
          <td
            ><input class="field figure text-[13px]" bind:value={pass.channels} placeholder="any" spellcheck="false" aria-label="Channels of {pass.name}" /></td
          >
          <td
            ><select class="field" bind:value={pass.depth} aria-label="Depth of {pass.name}"
              ><option value="">any</option>{#each sampleDepths as depth (depth)}<option value={depth}>{depthTitles[depth]}</option>{/each}</select
            ></td
          >
          <td
            ><input
              class="field figure text-[13px]"
              bind:value={pass.compression}
              placeholder="any"
              spellcheck="false"
              aria-label="Compression of {pass.name}"
            /></td
          >
          <td
            ><select class="field" bind:value={pass.alpha} aria-label="Alpha of {pass.name}"
              ><option value="">not said</option>{#each alphaKinds as kind (kind)}<option>{kind}</option>{/each}</select
            ></td
          >
          <td
            ><input
              class="field figure text-[13px]"
              bind:value={pass.range}
              placeholder="the shot's"
              spellcheck="false"
              aria-label="Own range of {pass.name}"
              onblur={() => (touched[`${at}.range`] = true)}
              aria-invalid={shown(`${at}.range`) !== ''}
              aria-describedby="problem-{at}.range"
            />{@render problem(`${at}.range`)}</td
          >
          <td
            ><button
              type="button"
              class="rounded p-1.5 text-soft hover:bg-hover hover:text-ink disabled:opacity-40"
              disabled={draft.passes.length === 1}
              aria-label="Remove {pass.name || `pass ${index + 1}`}"
              title="Remove"
              onclick={() => {
                draft.passes.splice(index, 1);
                changed = true;
              }}><Trash size={15} aria-hidden="true" /></button
            ></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</div>
