<script lang="ts">
  import { BASES, type Basis } from '@umwelt/core';
  import { tick } from 'svelte';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import { Loaded, useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { compareBases, type ComparedSide } from '$lib/data';
  import type { OddsDesk } from './desk.svelte';
  import { DataGrid, Toggles, Worked, type Head } from '$lib/ui';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const QUANTITIES = { itm: 'ITM', breakEven: 'break-even', touch: 'touch', delta: 'delta' } as const;
  type Quantity = keyof typeof QUANTITIES;
  let quantity = $state<Quantity>('itm');

  const side = $derived(bench.focus.current?.side ?? 'call');
  const key = $derived(
    `${bench.snapshot.shown?.snapshot.symbol} ${bench.snapshot.shown?.snapshot.asof} ${desk.at} ${side}`,
  );

  const compared = new Loaded<{ key: string; values: ComparedSide | null }>(() => {
    const { shown } = bench.snapshot;
    if (!shown || desk.at < 0) return undefined;
    const wanted = key;
    const work = compareBases(shown.snapshot, desk.at, side, shown.terms, shown.quotes);
    return work.then((values) => ({ key: wanted, values }));
  });
  const values = $derived(compared.value?.key === key ? compared.value.values : null);

  const rows = $derived.by(() => {
    const { slice } = desk;
    if (!slice || !values) return [];
    const scale = quantity === 'delta' ? 1 : 100;
    return Array.from(slice.strike, (strike, i) => {
      const cells = BASES.map((basis) => scale * values[basis][quantity][i]!);
      const known = cells.filter(Number.isFinite);
      return { strike, i, cells, apart: known.length > 1 ? Math.max(...known) - Math.min(...known) : NaN };
    }).reverse();
  });
  const used = $derived(BASES.indexOf(bench.context.basis));
  const digits = $derived(quantity === 'delta' ? 3 : 1);

  let scroller = $state<HTMLDivElement>();
  $effect(() => {
    void [bench.focus.current?.strike, rows.length > 0];
    void tick().then(() => scroller?.querySelector('[data-focus="true"]')?.scrollIntoView({ block: 'nearest' }));
  });

  /** The working of a contract’s number, with what the other bases say. */
  const expiryId = $derived({ expiry: desk.slice!.expiry, settlement: desk.slice!.settlement });
  function openAt(strike: number, basis: Basis): void {
    bench.focus.set({ ...expiryId, strike, side });
    bench.dialogs.openWorking(quantity, basis);
  }

  offerTable(
    'odds-by-strike',
    () => `Odds by strike, ${side}s of ${bench.context.symbol} ${desk.slice ? shortExpiry(desk.slice) : ''}`,
    () =>
      values && desk.slice
        ? {
            columns: numberColumns([
              'strike',
              ...Object.keys(QUANTITIES).flatMap((name) => BASES.map((basis) => `${name}_${basis}`)),
            ]),
            rows: Array.from(desk.slice.strike, (strike, i) => [
              strike,
              ...(Object.keys(QUANTITIES) as Quantity[]).flatMap((name) =>
                BASES.map((basis) => values[basis][name][i]!),
              ),
            ]),
          }
        : null,
  );

  const heads = $derived<readonly Head[]>([
    { label: 'strike' },
    ...BASES.map((basis, b) => ({ label: basis, class: b === used ? 'font-semibold! text-ink!' : '' })),
    { label: 'apart', title: 'between the lowest and the highest' },
  ]);
</script>

<div class="flex items-center gap-2 px-3 pb-1 text-[11.5px]">
  <Toggles
    label="Quantity"
    options={Object.keys(QUANTITIES) as Quantity[]}
    words={(name) => QUANTITIES[name]}
    bind:value={quantity}
  />
  <Toggles
    label="Side"
    options={['call', 'put'] as const}
    words={(one) => `${one}s`}
    value={side}
    onchoose={(one) => bench.focus.set({ side: one })}
  />
  <span class="text-soft"
    >{quantity === 'delta' ? 'delta by basis' : 'odds in % by basis'}; small: less the basis in use</span
  >
</div>
<DataGrid
  label="Odds by strike"
  {heads}
  {rows}
  keyOf={({ strike }) => strike}
  isDense
  isEdged
  testid="odds-by-strike"
  isLit={({ i }) => i === bench.focus.current?.index}
  onchoose={({ strike }) => bench.focus.set({ ...expiryId, strike, side })}
  none={desk.slice ? 'Working out …' : 'No strike is listed.'}
  bind:element={scroller}
>
  {#snippet row({ strike, cells, apart })}
    <th class="cell">{figures.strike(strike)} {side === 'call' ? '△' : '▽'}</th>
    {#each cells as value, b (b)}
      <td class="cell {b === used ? 'font-semibold' : ''}"
        ><Worked open={() => openAt(strike, BASES[b]!)}>{figures.fixed(value, digits)}</Worked
        >{#if b !== used && Number.isFinite(value - cells[used]!)}<span
            class="inline-block w-[42px] text-[10.5px] text-soft">{figures.signed(value - cells[used]!, digits)}</span
          >{/if}</td
      >
    {/each}
    <td class="cell">{figures.fixed(apart, digits)}</td>
  {/snippet}
</DataGrid>
