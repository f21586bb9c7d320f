<script lang="ts">
  import { ColumnPicker } from '$lib/ui';
  import { useParams } from '$lib/state';
  import {
    CHAIN_COLUMN_IDS,
    CHAIN_COLUMNS,
    CHAIN_SET_NAMES,
    CHAIN_SETS,
    setOfColumns,
    type ChainColumnId,
    type ChainSetName,
  } from '$lib/columns';
  import { keepOwnSet, loadOwnSets } from './column-sets';
  import { PARAMS } from './params';

  const params = useParams(PARAMS);
  let isOpen = $state(false);
  let own = $state.raw(loadOwnSets());
  let name = $state('');
  let isNaming = $state(false);

  const inView = $derived(params.columns.join());
  const ownName = $derived(Object.keys(own).find((one) => own[one]!.join() === inView) ?? null);
  const current = $derived(setOfColumns(params.columns) ?? ownName ?? '');
  const known = CHAIN_COLUMN_IDS.map((key) => ({ key, ...CHAIN_COLUMNS[key] }));

  function choose(wanted: string): void {
    const set = own[wanted] ?? CHAIN_SETS[wanted as ChainSetName];
    if (set) params.columns = set;
  }
  function keep(event: SubmitEvent): void {
    event.preventDefault();
    const wanted = name.trim();
    if (!wanted || CHAIN_SET_NAMES.some((one) => one === wanted)) return;
    own = keepOwnSet(wanted, params.columns);
    isNaming = false;
  }
</script>

<select class="choice" aria-label="Columns" value={current} onchange={(event) => choose(event.currentTarget.value)}>
  {#if !current}<option value="">own columns</option>{/if}
  {#each CHAIN_SET_NAMES as one (one)}<option value={one}>{one}</option>{/each}
  {#if Object.keys(own).length > 0}
    <optgroup label="kept here">
      {#each Object.keys(own) as one (one)}<option value={one}>{one}</option>{/each}
    </optgroup>
  {/if}
</select>
<div class="toggle-group">
  <button aria-haspopup="dialog" title="which columns, and in which order" onclick={() => (isOpen = true)}
    >columns</button
  >
</div>
{#if isNaming}
  <form class="flex gap-1" onsubmit={keep}>
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="w-24 rounded-[5px] border border-line bg-panel px-1.5 text-[11px]"
      aria-label="Name of the columns"
      placeholder="name"
      maxlength="40"
      required
      autofocus
      bind:value={name}
      onkeydown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') isNaming = false;
      }}
    />
    <button class="btn btn-xs">keep</button>
  </form>
{:else if ownName}
  <button class="btn btn-xs" onclick={() => (own = keepOwnSet(ownName, null))}>delete</button>
{:else if !current}
  <button class="btn btn-xs" onclick={() => (isNaming = true)}>keep …</button>
{/if}

<ColumnPicker
  bind:isOpen
  shown={params.columns}
  {known}
  most={24}
  usual={CHAIN_SETS.quotes}
  none="No column says so."
  onchange={(keys) => (params.columns = keys as ChainColumnId[])}
/>
