<!-- The API for people: what it can be asked, what it takes, what it gives. Made of the same document that programs read. -->
<script lang="ts">
  import { linesOf } from '$lib/api/schema-lines';
  import Brand from '$lib/controls/Brand.svelte';
  import CopyButton from '$lib/controls/CopyButton.svelte';
  import ThemeButton from '$lib/controls/ThemeButton.svelte';

  let { data } = $props();

  interface Described {
    readonly operationId: string;
    readonly tags: readonly [string];
    readonly summary: string;
    readonly description?: string;
    readonly parameters: readonly {
      readonly name: string;
      readonly in: string;
      readonly required: boolean;
      readonly description?: string;
      readonly schema: object;
    }[];
    readonly requestBody?: { readonly content: { readonly 'application/json': { readonly schema: object } } };
    readonly responses: Readonly<Record<string, { readonly content: Readonly<Record<string, { readonly schema?: object }>> }>>;
  }
  interface Document {
    readonly info: { readonly description: string };
    readonly tags: readonly { readonly name: string }[];
    readonly paths: Readonly<Record<string, Readonly<Record<string, Described>>>>;
  }

  const document = $derived(JSON.parse(data.document) as Document);
  const operations = $derived(
    Object.entries(document.paths).flatMap(([path, methods]) => Object.entries(methods).map(([method, described]) => ({ path, method, ...described }))),
  );
  const answerOf = ({ responses }: Described) => Object.entries(responses).find(([status]) => status < '300')!;
</script>

<svelte:head><title>API · Mint Tally</title></svelte:head>

{#snippet lines(title: string, schema: object)}
  {@const all = linesOf(schema)}
  {#if all.length > 0}
    <h4 class="mt-2 text-[13px] text-soft">{title}</h4>
    <table class="mt-0.5 w-full border-collapse text-left text-[13px]" aria-label={title}>
      <tbody>
        {#each all as { depth, name, type, isRequired, says }, i (i)}
          <tr class="border-t border-line align-top">
            <th scope="row" class="figure w-[230px] py-0.5 pr-3 font-normal" style="padding-left: {depth * 16}px">{name}{isRequired ? '' : '?'}</th>
            <td class="figure w-[320px] py-0.5 pr-3 [overflow-wrap:anywhere] text-soft">{type}</td>
            <td class="py-0.5">{says}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
{/snippet}

<header class="flex h-[46px] shrink-0 items-center gap-5 border-b border-line bg-bar px-4">
  <Brand />
  <div>
    <a href="/" class="text-soft underline decoration-control underline-offset-3 hover:text-ink">{data.project.name}</a><span class="mx-1.5 text-soft">/</span>
    <h1 class="inline font-bold">API</h1>
  </div>
  <span class="flex-1"></span>
  <a class="button" href="{data.root}/openapi.json" target="_blank" rel="noopener">openapi.json</a>
  <ThemeButton />
</header>

<div class="flex min-h-0 flex-1 small:flex-col">
  <nav class="w-[300px] shrink-0 overflow-y-auto border-r border-line px-4.5 py-4 text-[13px] small:w-full small:border-r-0" aria-label="Operations">
    {#each document.tags as { name } (name)}
      <h2 class="mt-2 font-bold first:mt-0">{name}</h2>
      <ul>
        {#each operations.filter(({ tags }) => tags[0] === name) as { operationId, summary } (operationId)}
          <li><a class="block py-0.5 text-soft hover:text-ink hover:underline" href="#{operationId}">{summary}</a></li>
        {/each}
      </ul>
    {/each}
  </nav>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls, and holds nothing that could be focused instead) -->
  <main class="min-w-0 flex-1 overflow-y-auto px-6 py-4 small:flex-none" tabindex="0">
    <p class="max-w-[80ch]">{document.info.description} A field with a question mark may be left out.</p>
    <p class="mt-1 max-w-[80ch] text-soft">
      What goes wrong is answered with <span class="figure">message</span> and <span class="figure">remedy</span>, and where the request is at fault with
      <span class="figure">problems</span>, field by field.
    </p>
    {#each operations as operation (operation.operationId)}
      {@const [status, answer] = answerOf(operation)}
      {@const schema = answer.content['application/json']?.schema}
      <section id={operation.operationId} class="mt-6 border-t border-line pt-3" aria-label={operation.summary}>
        <h3 class="font-bold">{operation.summary}</h3>
        <p class="mt-1 flex items-center gap-3">
          <span class="figure"><b>{operation.method.toUpperCase()}</b> {data.root}{operation.path}</span>
          <CopyButton
            small
            text="curl -X {operation.method.toUpperCase()} http://127.0.0.1:4680{data.root}{operation.path}"
            label="Copy as a line for a shell"
          />
        </p>
        {#if operation.description}<p class="mt-1 max-w-[80ch] text-[13px]">{operation.description}</p>{/if}
        {@render lines('In the address', {
          properties: Object.fromEntries(
            operation.parameters.map(({ name, schema: own, description }) => [name, { ...own, ...(description ? { description } : {}) }]),
          ),
          required: operation.parameters.filter(({ required }) => required).map(({ name }) => name),
        })}
        {#if operation.requestBody}{@render lines('Takes', operation.requestBody.content['application/json'].schema)}{/if}
        {#if schema}{@render lines(`Gives ${status}`, schema)}{:else}<p class="mt-2 text-[13px] text-soft">
            Gives {status}: <span class="figure">{Object.keys(answer.content).join(', ')}</span>
          </p>{/if}
      </section>
    {/each}
  </main>
</div>
