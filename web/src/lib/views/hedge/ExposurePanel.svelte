<script lang="ts">
  import { figures } from '$lib/formats';
  import { nameOf } from '$lib/kept';
  import { useParams } from '$lib/state';
  import { legWords } from '$lib/structure';
  import { DataGrid, NumberField, Toggles, type Head } from '$lib/ui';
  import type { HedgeDesk } from './desk.svelte';
  import { MOST_AMOUNT, PARAMS, SOURCES, type Amounts, type Source, type Target } from './params';
  import { amount, targetWords } from './plan';

  /** What is exposed, what it is to become, how far it may be off, and what is left of it. */
  let { desk }: { desk: HedgeDesk } = $props();

  const params = useParams(PARAMS);
  const left = $derived(desk.plan?.residual ?? null);
  const TITLES: Record<Source, string> = {
    structure: 'the legs in hand',
    kept: 'a structure that is kept',
    typed: 'numbers of one’s own',
  };
  const HEADS: readonly Head[] = [
    { label: 'neutralize', align: 'left' },
    { label: 'now', title: 'of the position' },
    { label: 'aim' },
    { label: 'band', title: 'how far it may be off before one trades again' },
    { label: 'left', title: 'after the trades' },
  ];

  function want(name: Target, isWanted: boolean): void {
    params.wanted = desk.targets.filter((one) => (one === name ? isWanted : params.wanted.includes(one)));
  }
  const put = (amounts: Amounts, name: Target, value: number): Amounts => ({ ...amounts, [name]: value });
  const hand = $derived(desk.exposed.legs.map((leg) => legWords(leg)).join(', '));
  /** Whether what is left is more than its band lets be. */
  const isOver = (name: Target) => {
    const band = params.bands[name] ?? 0;
    return left !== null && band > 0 && Math.abs((left[name] ?? 0) - (params.aims[name] ?? 0)) > band;
  };
</script>

<section class="panel min-h-0 flex-1" aria-label="Exposure">
  <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Exposure</h2>
    <span class="flex-1"></span>
    <Toggles label="Exposed" options={SOURCES} bind:value={params.source} titles={(source) => TITLES[source]} />
  </header>
  {#if params.source === 'kept' && desk.kept.length > 0}
    <select
      class="choice mx-3 mb-1 flex-none"
      aria-label="Kept structure that is exposed"
      value={params.keptId}
      onkeydown={(event) => event.stopPropagation()}
      onchange={(event) => (params.keptId = Number(event.currentTarget.value))}
    >
      <option value={0}>choose one …</option>
      {#each desk.kept as one (one.id)}<option value={one.id}>{nameOf(one)}</option>{/each}
    </select>
  {/if}
  <p class="m-0 flex-none truncate px-3 pb-1 text-[11.5px] text-soft" title={hand}>
    {#if params.source === 'typed'}of a position, in units of the underlying{:else if desk.missing}<span
        data-testid="hedge-missing">{desk.missing}</span
      >{:else}{hand}{desk.exposed.held === 0 ? '' : ` and ${figures.signed(desk.exposed.held, 0)} itself`}, × {figures.count(
        desk.multiplier,
      )}{/if}
  </p>
  <DataGrid label="Exposure" heads={HEADS} rows={desk.targets} keyOf={(name) => name} isDense isEdged testid="exposure">
    {#snippet row(name)}
      <th class="cell text-left! font-[inherit]">
        <label class="flex items-center gap-1.5"
          ><input
            type="checkbox"
            class="checkbox checkbox-xs"
            checked={params.wanted.includes(name)}
            disabled={params.wanted.length === 1 && params.wanted.includes(name)}
            onchange={(event) => want(name, event.currentTarget.checked)}
          />{targetWords(name)}</label
        >
      </th>
      <td class="cell"
        >{#if params.source === 'typed'}<NumberField
            label="Exposure to {targetWords(name)}"
            bind:value={() => params.typed[name] ?? 0, (value) => (params.typed = put(params.typed, name, value))}
            min={-MOST_AMOUNT}
            max={MOST_AMOUNT}
            none={0}
            placeholder="0"
            class="w-16"
          />{:else}{desk.exposure ? amount(desk.exposure[name] ?? 0) : '–'}{/if}</td
      >
      <td class="cell"
        ><NumberField
          label="Aim of {targetWords(name)}"
          bind:value={() => params.aims[name] ?? 0, (value) => (params.aims = put(params.aims, name, value))}
          min={-MOST_AMOUNT}
          max={MOST_AMOUNT}
          none={0}
          placeholder="0"
          class="w-11"
        /></td
      >
      <td class="cell"
        ><NumberField
          label="Band of {targetWords(name)}"
          bind:value={() => params.bands[name] ?? 0, (value) => (params.bands = put(params.bands, name, value))}
          min={0}
          max={MOST_AMOUNT}
          none={0}
          placeholder="±"
          class="w-11"
        /></td
      >
      <td class="cell font-semibold {isOver(name) ? 'text-loss' : ''}">{left ? amount(left[name] ?? 0) : '–'}</td>
    {/snippet}
  </DataGrid>
</section>
