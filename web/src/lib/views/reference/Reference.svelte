<script lang="ts">
  import { onMount } from 'svelte';
  import { operationsOf, type Document, type Operation } from './document';
  import Example from './Example.svelte';
  import Fields from './Fields.svelte';

  let loaded = $state.raw<Document | null>(null);
  let problem = $state<string | null>(null);
  let wanted = $state('');

  onMount(() => {
    fetch('/api/v1/openapi.json')
      .then((response) => response.json() as Promise<Document>)
      .then(
        (document) => (loaded = document),
        () => (problem = 'The server does not answer. Is Umwelt still running?'),
      );
  });

  const all = $derived(loaded ? operationsOf(loaded) : []);
  const isWanted = ({ method, path, summary }: Operation) =>
    `${method} ${path} ${summary}`.toLowerCase().includes(wanted.trim().toLowerCase());
  const groups = $derived(
    (loaded?.tags ?? [])
      .map((tag) => ({ ...tag, operations: all.filter((one) => one.tag === tag.name && isWanted(one)) }))
      .filter(({ operations }) => operations.length > 0),
  );
</script>

{#snippet method(name: string)}
  <span class="figures inline-block w-[50px] flex-none text-[11px]! {name === 'GET' ? 'text-implied' : 'text-focus'}"
    >{name}</span
  >
{/snippet}

<div class="flex h-screen min-w-[900px] gap-2 bg-page p-2">
  <nav class="panel w-[300px] flex-none" aria-label="Operations">
    <div class="flex items-baseline gap-2 px-3 pt-2">
      <h1 class="m-0 text-[17px] font-bold">API</h1>
      <span class="figures text-soft">{loaded ? `version ${loaded.info.version}` : ''}</span>
      <span class="flex-1"></span>
      <a class="text-soft underline-offset-4 hover:underline" href="/universe">Umwelt</a>
    </div>
    <input
      class="input mx-3 my-2 w-auto input-xs"
      type="search"
      placeholder="path or word"
      aria-label="Find an operation"
      bind:value={wanted}
    />
    <div class="min-h-0 flex-1 overflow-y-auto px-3 pb-2">
      {#each groups as { name, operations } (name)}
        <h2 class="mt-2 mb-0.5 text-[13px] font-bold capitalize">{name}</h2>
        {#each operations as one (one.id)}
          <a class="flex py-px text-[12px] hover:bg-band" href="#{one.id}" title={one.summary}
            >{@render method(one.method)}<span class="figures min-w-0 flex-1 truncate"
              >{one.path.replace(/^\/underlyings\/\{symbol\}(?=.)/, '…')}</span
            ></a
          >
        {/each}
      {:else}
        {#if loaded}<p class="text-soft">Nothing has “{wanted}” in it.</p>{/if}
      {/each}
    </div>
  </nav>
  <main class="min-w-0 flex-1 overflow-y-auto" data-testid="reference">
    {#if problem}<p class="panel p-4 text-loss" role="alert">{problem}</p>
    {:else if !loaded}<p class="panel p-4 text-soft">Loading …</p>
    {:else}
      {@const document = loaded}
      <section class="panel mb-2 block p-4">
        <p class="m-0">{document.info.description}</p>
        <p class="m-0 mt-1 text-soft">
          JSON in, JSON out, below <code class="figures">/api/v1</code>. Numbers are never texts; what does not exist is
          <code class="figures">null</code>. Lists answer <code class="figures">?format=csv</code> where it is said. The
          document itself: <a class="underline" href="/api/v1/openapi.json">openapi.json</a>.
        </p>
      </section>
      {#each groups as { name, description, operations } (name)}
        <section class="mb-2" aria-label={name}>
          <h2 class="mx-1 my-2 text-[17px] font-bold capitalize">
            {name} <span class="text-[13px] font-normal text-soft normal-case">{description}</span>
          </h2>
          {#each operations as one (one.id)}
            <article class="panel mb-2 block p-4" id={one.id}>
              <h3 class="m-0 flex items-baseline text-[15px] font-semibold">
                {@render method(one.method)}<span class="figures break-all">{one.path}</span>
              </h3>
              <p class="mt-1 mb-2">
                {one.summary}{one.kinds.includes('text/csv') ? ' Also as a table, with ?format=csv.' : ''}
              </p>
              {#if one.parameters.length > 0}
                <table class="mb-1 w-full border-collapse text-[12.5px]">
                  <thead class="sr-only"><tr><th>parameter</th><th>place</th><th>meaning</th></tr></thead>
                  <tbody>
                    {#each one.parameters as { name, in: place, required, schema, description } (place + name)}
                      <tr class="border-t border-line align-top">
                        <th class="figures w-[230px] py-0.5 text-left font-semibold">{name}{required ? '' : '?'}</th>
                        <td class="w-[220px] py-0.5 pr-2 text-soft">{place}</td>
                        <td class="py-0.5 text-soft">{description ?? schema.description ?? ''}</td>
                      </tr>
                    {/each}
                  </tbody>
                </table>
              {/if}
              {#if one.body}<Fields title="Body" schema={one.body} {document} />{/if}
              {#if one.answer}<Fields title="Answer" schema={one.answer} {document} />{/if}
              {#if one.example}<div class="mt-2"><Example method={one.method} example={one.example} /></div>{/if}
            </article>
          {/each}
        </section>
      {/each}
    {/if}
  </main>
</div>
