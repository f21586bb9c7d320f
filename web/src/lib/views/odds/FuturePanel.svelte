<script lang="ts">
  import { expiryName } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures, shortDay } from '$lib/formats';
  import { Loaded, useWorkbench, useParams } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { followContract, type ContractFuture } from '$lib/data';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import type { OddsDesk } from './desk.svelte';
  import { dayWork, futureWork } from './work';
  import { PARAMS } from './params';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const focus = $derived(bench.focus.current);
  /** Gains first, the largest on top; then losses, the smallest on top. */
  const shares = $derived.by(() => {
    const sizes = params.shares.toSorted((a, b) => b - a);
    return [...sizes, ...sizes.toReversed().map((size) => -size)].map((size) => size / 100);
  });

  const key = $derived(
    [
      bench.snapshot.shown?.snapshot.symbol,
      bench.snapshot.shown?.snapshot.asof,
      focus && expiryName(focus),
      focus?.strike,
      focus?.side,
    ].join(' '),
  );
  const future = new Loaded<{ key: string; found: ContractFuture | null }>(() => {
    const { shown } = bench.snapshot;
    const { closes } = desk;
    if (!shown || !focus || closes.length === 0) return undefined;
    const wanted = key;
    const request = {
      ...{ slice: focus.slice, index: focus.index, side: focus.side, basis: shown.basis, shares },
      closes: closes.map(({ years, sessions }) => ({ years, sessions })),
    };
    const work = followContract(shown.snapshot, request, shown.terms, shown.quotes);
    return work.then((found) => ({ key: wanted, found }));
  });
  const current = $derived(future.value?.key === key ? future.value : null);
  const found = $derived(current?.found ?? null);
  const view = $derived.by(() => {
    const { shown } = bench.snapshot;
    if (!shown || !focus) return null;
    const values = shown.values[focus.slice]![focus.side];
    const quotes = shown.snapshot.slices[focus.slice]![focus.side];
    const i = focus.index;
    return {
      mid: 0.5 * (quotes.bid[i]! + quotes.ask[i]!),
      ...{ itm: values.itm[i]!, touch: values.touch[i]!, theta: values.theta[i]!, delta: values.delta[i]! },
    };
  });
  /** Whether it expires before another day has come. */
  const isLast = $derived(desk.closes.length === 1);
  const missing = $derived.by(() => {
    if (!bench.snapshot.shown || !focus) return 'Loading …';
    if (desk.closes.length === 0) return 'The expiry is over: nothing is left to come.';
    if (!current) return 'Following the contract …';
    return view && !(view.mid > 0)
      ? 'The contract is not quoted on both sides: there is no price to gain or lose from.'
      : `The ${bench.snapshot.shown.basis} basis has no vol for this contract.`;
  });

  function typeShares(input: HTMLInputElement): void {
    const sizes = input.value
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    const isSense = sizes.length > 0 && sizes.length <= 5 && sizes.every((size) => size >= 1 && size <= 1000);
    input.setCustomValidity(isSense ? '' : 'one to five shares between 1 and 1000 per cent are wanted');
    input.reportValidity();
    if (isSense) params.shares = [...new Set(sizes)];
  }
  function openWork(i: number, j: number): void {
    const close = desk.closes[i];
    const cell = found?.rows[i]?.[j];
    if (!close || !cell || !view || !focus || !bench.snapshot.shown) return;
    bench.dialogs.work = futureWork(close, shares[j]!, view.mid, cell, { ...focus, basis: bench.snapshot.shown.basis });
  }
  function openDay(): void {
    const [close] = desk.closes;
    if (close && found && view && focus && bench.snapshot.shown) {
      bench.dialogs.work = dayWork(found, close, view, { ...focus, basis: bench.snapshot.shown.basis });
    }
  }
  const weekday = (day: string) =>
    new Date(`${day}T00:00:00Z`).toLocaleDateString('en-US', { weekday: 'short', timeZone: 'UTC' });

  offerTable(
    'contract-future',
    () => `Odds of ${bench.context.symbol} ${figures.strike(focus?.strike)} ${focus?.side} by coming closes`,
    () =>
      found && {
        columns: [
          { name: 'close', type: 'day' },
          ...numberColumns(shares.map((share) => `${share > 0 ? 'up' : 'down'}_${Math.abs(100 * share)}`)),
        ],
        rows: desk.closes.map(({ day }, i) => [day, ...found.rows[i]!.map(({ odds }) => odds)]),
      },
  );

  const heads = $derived<readonly Head[]>([
    { label: 'by', align: 'left' },
    ...shares.map((share) => ({ label: `${figures.signed(100 * share, 0)} %` })),
  ]);
</script>

{#snippet pair(name: string, value: string, open: () => void, title?: string)}
  <div class="flex items-baseline justify-between gap-2 border-b border-dotted border-line py-0.5" {title}>
    <dt class="text-soft">{name}</dt>
    <dd class="figures m-0"><Worked {open}>{value}</Worked></dd>
  </div>
{/snippet}

<div class="flex items-center gap-2 px-3 pb-1 text-[11.5px] text-soft">
  <span class="min-w-0 flex-1 truncate"
    >odds by each close that its price is up or down so much from {figures.fixed(view?.mid, decimals)}</span
  >
  <input
    class="figures w-24 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
    aria-label="Gains and losses in per cent"
    title="gains and losses, per cent of its price"
    value={params.shares.join(' ')}
    onkeydown={(event) => event.stopPropagation()}
    onchange={(event) => typeShares(event.currentTarget)}
  /> %
</div>
{#if found}
  <DataGrid
    label="Odds by close"
    {heads}
    rows={desk.closes}
    keyOf={({ day }) => day}
    isDense
    isEdged
    testid="contract-future"
  >
    {#snippet row({ day }, i)}
      <th class="cell text-left! {i === desk.closes.length - 1 ? 'font-semibold' : 'font-normal'}"
        >{weekday(day)} {shortDay(day)}</th
      >
      {#each found.rows[i] ?? [] as { odds }, j (j)}<td class="cell"
          ><Worked open={() => openWork(i, j)}>{figures.fixed(100 * odds, 1)}</Worked></td
        >{/each}
    {/snippet}
  </DataGrid>
  <dl class="m-0 grid flex-none grid-cols-2 gap-x-3 px-3 pt-1 pb-2 text-[11.5px]">
    {@render pair(
      isLast ? 'recovers by expiry' : 'recovers tomorrow',
      figures.percent(found.recovery),
      openDay,
      isLast
        ? 'odds to be worth at least today’s mid when it expires'
        : 'odds to be worth at least today’s mid at tomorrow’s close, after a day’s decay',
    )}
    {@render pair(
      isLast ? 'if nothing moves' : 'tomorrow, nothing moves',
      figures.fixed(found.tomorrow, decimals),
      openDay,
      `now ${figures.fixed(found.now, decimals)} on the ${bench.snapshot.shown?.basis} basis`,
    )}
    {@render pair(
      isLast ? 'move to keep its value' : 'move to make a day good',
      figures.signed(found.move, decimals),
      openDay,
      `theta over delta would say ${figures.signed(view ? -view.theta / view.delta : NaN, decimals)}`,
    )}
    {@render pair('touch · 2×itm', `${figures.percent(view?.touch)} · ${figures.percent(2 * (view?.itm ?? NaN))}`, () =>
      bench.dialogs.openWorking('touch'),
    )}
  </dl>
{:else}
  <p class="m-auto px-6 text-center text-soft">{missing}</p>
{/if}
