<script lang="ts">
  import { BASES, type Basis } from '@umwelt/core';
  import { tick } from 'svelte';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import { Loaded, useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { compareBases, type ComparedSide } from '$lib/data';
  import Worked from '$lib/working/Worked.svelte';
  import WorkedArea from '$lib/working/WorkedArea.svelte';
  import type { OddsDesk } from './desk.svelte';
  import { Toggles } from '$lib/ui';

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
<WorkedArea label="Odds by strike" class="min-h-0 flex-1 overflow-auto" bind:element={scroller}>
  <table class="dense w-full border-collapse" data-testid="odds-by-strike">
    <thead>
      <tr>
        <th class="head-cell">strike</th>
        {#each BASES as basis, b (basis)}<th class="head-cell {b === used ? 'font-semibold! text-ink!' : ''}"
            >{basis}</th
          >{/each}
        <th class="head-cell pr-3!" title="between the lowest and the highest">apart</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as { strike, i, cells, apart } (strike)}
        <tr
          class="cursor-pointer border-b border-line hover:bg-band {i === bench.focus.current?.index ? 'bg-band' : ''}"
          data-focus={i === bench.focus.current?.index}
          onclick={() => bench.focus.set({ ...expiryId, strike, side })}
        >
          <th class="cell"
            ><button class="cursor-pointer font-semibold" onclick={() => bench.focus.set({ ...expiryId, strike, side })}
              >{figures.strike(strike)} {side === 'call' ? '△' : '▽'}</button
            ></th
          >
          {#each cells as value, b (b)}
            <td class="cell {b === used ? 'font-semibold' : ''}"
              ><Worked open={() => openAt(strike, BASES[b]!)}>{figures.fixed(value, digits)}</Worked
              >{#if b !== used && Number.isFinite(value - cells[used]!)}<span
                  class="inline-block w-[42px] text-[10.5px] text-soft"
                  >{figures.signed(value - cells[used]!, digits)}</span
                >{/if}</td
            >
          {/each}
          <td class="cell pr-3!">{figures.fixed(apart, digits)}</td>
        </tr>
      {:else}
        <tr><td class="p-3 text-soft" colspan="8">{desk.slice ? 'Working out …' : 'No strike is listed.'}</td></tr>
      {/each}
    </tbody>
  </table>
</WorkedArea>
