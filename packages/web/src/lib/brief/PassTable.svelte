<!-- The ordered passes, a row each. -->
<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { alphaKinds, fillNaming, isUsuallyWatched, MintError, passRoles, sampleDepths, type PassRole } from '@mint-tally/core';
  import Select from '$lib/controls/Select.svelte';
  import { newPass, USUAL_NAMING, usualKinds, type BriefDraft, type PassDraft } from './draft';
  import type { FieldProblems } from './field-problems.svelte';

  let { draft = $bindable(), problems, onchange }: { draft: BriefDraft; problems: FieldProblems; onchange: () => void } = $props();

  const ROLES = [['', 'not said'], ...passRoles.map((role) => [role, role] as const)] as const;
  const DEPTHS = [['', 'any'], ...sampleDepths.map((depth) => [depth, /^\d/.test(depth) ? `${depth} bit` : depth] as const)] as const;
  const ALPHAS = [['', 'not said'], ...alphaKinds.map((kind) => [kind, kind] as const)] as const;
  let namingProblem = $state('');

  /** The first beauty is as it was rendered; any other may be it without its noise. Of lights that is said where they are denoised. */
  const mayBeDenoised = (pass: PassDraft) =>
    pass.denoisedFrom !== '' || (pass.role === 'beauty' && draft.passes.find(({ role }) => role === 'beauty') !== pass);

  /** What a pass may be without its noise: nothing, or another pass as it was rendered. */
  function originalsOf(pass: PassDraft): [string, string][] {
    const others = draft.passes.filter((other) => other !== pass && other.denoisedFrom === '' && (other.role === 'beauty' || other.role === 'light'));
    const names = new Set([...others.map(({ name }) => name), ...(pass.denoisedFrom === '' ? [] : [pass.denoisedFrom])]);
    return [['', 'as rendered'], ...[...names].map((name): [string, string] => [name, `denoised from ${name}`])];
  }

  /** A row in which nothing is said yet gets what the role usually holds; what is said stays. */
  function chooseRole(pass: PassDraft) {
    const usual = usualKinds[pass.role as PassRole];
    if (!usual || !/\.exr$/i.test(pass.pattern)) return;
    pass.channels ||= usual.channels;
    pass.depth ||= usual.depth;
    pass.alpha ||= usual.alpha;
  }

  /** Makes every pass's pattern from the template. */
  function applyNaming() {
    const template = draft.naming || USUAL_NAMING;
    try {
      const patterns = draft.passes.map((pass) => fillNaming(template, { shot: draft.shot, pass: pass.name, version: draft.version }));
      draft.passes.forEach((pass, index) => (pass.pattern = patterns[index]));
      draft.naming = template;
      namingProblem = '';
      onchange();
    } catch (thrown) {
      if (!(thrown instanceof MintError)) throw thrown;
      namingProblem = `${thrown.message} ${thrown.remedy}`;
    }
  }

  function add() {
    const pass = newPass();
    try {
      pass.pattern = fillNaming(draft.naming || USUAL_NAMING, { shot: draft.shot, pass: 'pass', version: draft.version });
    } catch {
      // The template is told where it stands; the row begins empty.
    }
    draft.passes.push(pass);
    onchange();
  }
</script>

{#snippet problem(field: string)}
  <span id="problem-{field}" class="block text-[13px] text-bad" data-problem={field}>{problems.shown(field)}</span>
{/snippet}

<div class="mt-5 mb-1 flex flex-wrap items-end gap-x-3 gap-y-1.5">
  <h2 class="mr-auto font-bold">Passes</h2>
  <label class="flex min-w-0 items-center gap-2 text-soft"
    >Naming
    <input
      class="field figure w-[330px] min-w-0 text-[13px]"
      bind:value={draft.naming}
      placeholder={USUAL_NAMING}
      spellcheck="false"
      aria-invalid={namingProblem !== ''}
      aria-describedby="problem-naming"
    />
  </label>
  <button type="button" class="button button-small" onclick={applyNaming}>Name all passes</button>
  <button type="button" class="button button-small" onclick={add}><Plus size={14} aria-hidden="true" />Add pass</button>
</div>
<span id="problem-naming" class="block text-right text-[13px] text-bad" role="status">{namingProblem}</span>
{@render problem('passes')}
<div class="pass hidden border-b border-line py-1 text-[13px] text-soft @3xl:grid" aria-hidden="true">
  <span>Name</span><span>Role</span><span>Channels</span><span>Depth</span><span>Compression</span><span>Alpha</span><span>Colour space</span><span
    >Own range</span
  >
</div>
<ul>
  {#each draft.passes as pass, index (pass.key)}
    {@const at = `passes.${index}`}
    <li class="pass grid items-start border-b border-line py-1.5">
      <div>
        {@render title('Name')}
        <input
          class="field"
          bind:value={pass.name}
          aria-label="Name of pass {index + 1}"
          onblur={problems.entry(`${at}.name`).onblur}
          aria-invalid={problems.shown(`${at}.name`) !== ''}
          aria-describedby="problem-{at}.name"
        />
        {@render problem(`${at}.name`)}
      </div>
      <div>
        {@render title('Role')}
        <Select label="Role of {pass.name}" labelHidden bind:value={pass.role} onchange={() => chooseRole(pass)} options={ROLES} />
      </div>
      <div>
        {@render title('Channels')}
        <input class="field figure text-[13px]" bind:value={pass.channels} placeholder="any" spellcheck="false" aria-label="Channels of {pass.name}" />
      </div>
      <div>
        {@render title('Depth')}
        <Select label="Depth of {pass.name}" labelHidden bind:value={pass.depth} options={DEPTHS} />
      </div>
      <div>
        {@render title('Compression')}
        <input class="field figure text-[13px]" bind:value={pass.compression} placeholder="any" spellcheck="false" aria-label="Compression of {pass.name}" />
      </div>
      <div>
        {@render title('Alpha')}
        <Select label="Alpha of {pass.name}" labelHidden bind:value={pass.alpha} options={ALPHAS} />
      </div>
      <div>
        {@render title('Colour space')}
        <input
          class="field text-[13px]"
          bind:value={pass.colourSpace}
          placeholder="not said"
          list="colour-spaces"
          spellcheck="false"
          aria-label="Colour space of {pass.name}"
        />
      </div>
      <div>
        {@render title('Own range')}
        <input
          class="field figure text-[13px]"
          bind:value={pass.range}
          placeholder="the shot’s"
          title="Where it differs from the shot’s"
          spellcheck="false"
          aria-label="Own range of {pass.name}"
          onblur={problems.entry(`${at}.range`).onblur}
          aria-invalid={problems.shown(`${at}.range`) !== ''}
          aria-describedby="problem-{at}.range"
        />
        {@render problem(`${at}.range`)}
      </div>
      <div class="files flex items-start gap-2">
        <span class="shrink-0 pt-1.5 text-[13px] text-soft" title="#### stands for the frame number">Files, ####</span>
        <div class="min-w-0 flex-1">
          <input
            class="field figure text-[13px]"
            bind:value={pass.pattern}
            spellcheck="false"
            aria-label="Name pattern of {pass.name}"
            onblur={problems.entry(`${at}.pattern`).onblur}
            aria-invalid={problems.shown(`${at}.pattern`) !== ''}
            aria-describedby="problem-{at}.pattern"
          />
          {@render problem(`${at}.pattern`)}
        </div>
        {#if mayBeDenoised(pass)}
          <div class="w-[190px] shrink-0">
            <Select label="What {pass.name} is made from" labelHidden bind:value={pass.denoisedFrom} options={originalsOf(pass)} />
            {@render problem(`${at}.denoisedFrom`)}
          </div>
        {/if}
        <label class="flex shrink-0 items-center gap-1.5 pt-1.5 text-[13px]" title="Somebody has to watch it at full rate and size before the handoff"
          ><input
            type="checkbox"
            class="accent-(--mint)"
            bind:checked={
              () => pass.watch ?? isUsuallyWatched(draft.passes, index),
              (watch) => {
                pass.watch = watch;
                onchange();
              }
            }
          />watch<span class="sr-only"> {pass.name}</span></label
        >
        <button
          type="button"
          class="rounded p-1.5 text-soft hover:bg-hover hover:text-ink disabled:opacity-40"
          disabled={draft.passes.length === 1}
          aria-label="Remove {pass.name || `pass ${index + 1}`}"
          title="Remove"
          onclick={() => {
            draft.passes.splice(index, 1);
            onchange();
          }}><Trash size={15} aria-hidden="true" /></button
        >
      </div>
    </li>
  {/each}
</ul>
<label class="mt-2 flex items-center gap-2 text-[13px]" title="Then a frame that lacks in one pass is rendered again with all of them"
  ><input type="checkbox" class="accent-(--mint)" bind:checked={draft.allPassesAtOnce} />The renderer writes all passes of a frame at once</label
>
<!-- Names that are in common use; any other may be typed. -->
<datalist id="colour-spaces">
  {#each ['scene-linear BT.709', 'ACEScg', 'ACES2065-1', 'sRGB', 'BT.1886', 'BT.2020', 'raw'] as space (space)}<option value={space}></option>{/each}
</datalist>

{#snippet title(text: string)}<span class="block text-[12.5px] text-soft @3xl:hidden" aria-hidden="true">{text}</span>{/snippet}

<style>
  .pass {
    grid-template-columns: repeat(auto-fill, minmax(112px, 1fr));
    gap: 6px;
  }
  .files {
    grid-column: 1 / -1;
  }
  @container (width >= 48rem) {
    .pass {
      grid-template-columns: 112px 100px minmax(90px, 1fr) 80px 108px 128px 124px 112px;
    }
  }
</style>
