<script lang="ts">
  import { isUnderlying, namedExpiry, WORTH_BY, type RiskNode, type RiskSums } from '@umwelt/core';
  import type { RiskLeg } from '$lib/book';
  import { offerTable } from '$lib/exports';
  import { figures, shortName } from '$lib/formats';
  import { numberColumns } from '$lib/tables';
  import { useWorkbench } from '$lib/state';
  import { DataGrid, Toggles, type Head } from '$lib/ui';
  import BookMenu from './BookMenu.svelte';
  import type { BookDesk } from './desk.svelte';
  import { ORDERS, PARTS } from './params';

  /** Where the risk comes from: families, underlyings, expiries, strikes, each opened by a click. */
  let { desk }: { desk: BookDesk } = $props();

  const bench = useWorkbench();

  interface Column {
    name: keyof RiskSums;
    label: string;
    title: string;
    hasBar?: boolean;
  }
  const FIRST: readonly Column[] = [
    { name: 'delta', label: 'delta', title: 'price × delta: what a move of all of the price brings', hasBar: true },
    { name: 'gamma', label: 'gamma', title: 'what delta changes by for one per cent: S²Γ/100' },
    { name: 'vega', label: 'vega', title: 'a point of vol', hasBar: true },
    { name: 'vegaRoot', label: '√30', title: 'vega × √(30/T): a point at 30 days, and as much less further on' },
    { name: 'theta', label: 'theta', title: 'a day' },
  ];
  const SECOND: readonly Column[] = [
    { name: 'vanna', label: 'vanna', title: 'what delta changes by for a point of vol', hasBar: true },
    { name: 'volga', label: 'volga', title: 'what vega changes by for a point of vol' },
    { name: 'charm', label: 'charm', title: 'what delta changes by in a day', hasBar: true },
    { name: 'veta', label: 'veta', title: 'what vega changes by in a day' },
    { name: 'rho', label: 'rho', title: 'a percentage point of the rate' },
  ];
  const columns = $derived(desk.params.order === 'first' ? FIRST : SECOND);
  const since = $derived<Column>(
    desk.hasGhost
      ? { name: 'sinceGhost', label: 'since ghost', title: 'profit since the ghost' }
      : { name: 'sinceClose', label: 'today', title: 'profit since the close before' },
  );

  const heads = $derived<Head[]>([
    { label: `family, underlying, ${desk.params.part}`, align: 'left' },
    ...columns.flatMap(({ label, title, hasBar }): Head[] => [
      { label, title },
      ...(hasBar ? [{ label: `${label} drawn`, isHidden: true, class: 'w-20' }] : []),
    ]),
    { label: since.label, title: since.title },
  ]);

  /** The largest of a column among the parts in view, which bars are drawn by. */
  const largest = (name: keyof RiskSums) =>
    desk.rows.reduce((most, { node }) => Math.max(most, Math.abs(node.sums[name]) || 0), 0);
  const bars = $derived(new Map(columns.filter(({ hasBar }) => hasBar).map(({ name }) => [name, largest(name)])));

  /** A bar from the middle, as parts of a hundred. */
  function barOf(value: number, most: number): { left: number; width: number } {
    const width = most > 0 ? (50 * Math.abs(value)) / most : 0;
    return { left: value < 0 ? 50 - width : 50, width: Number.isFinite(width) ? width : 0 };
  }

  function wordsOf({ level, name, legs }: RiskNode): { name: string; also: string } {
    const [leg] = legs;
    if (level === 'position') return { name: desk.nameOf(Number(name)), also: '' };
    if (name === '') return { name: 'itself', also: '' };
    if (level === 'strike') {
      const contract = leg!.contract;
      const strike = isUnderlying(contract) ? name : `${figures.strike(contract.strike)} ${contract.side}`;
      return { name: strike, also: '' };
    }
    if (level === 'expiry') {
      const days = legs.find(({ mark }) => mark)?.mark?.days;
      return {
        name: namedExpiry(name) ? shortName(name) : name,
        also: days === undefined ? '' : `${figures.days(days)} d`,
      };
    }
    if (level === 'underlying') {
      const option = legs.find(({ contract }) => !isUnderlying(contract)) as RiskLeg | undefined;
      return { name, also: option ? `×${figures.count(option.row.multiplier)}` : '' };
    }
    const members = new Set(legs.map(({ contract }) => contract.symbol)).size;
    return { name, also: members > 1 ? figures.counted(members, 'underlying') : '' };
  }

  /**
   * Where the exposure of a family or of an underlying is hedged: its Greeks in units of one underlying, of which the options are
   * traded; null of anything else.
   */
  function hedgeOf({ level, legs }: RiskNode): string | null {
    if (level !== 'family' && level !== 'underlying') return null;
    const held = (legs as RiskLeg[]).filter(({ quantity, mark }) => quantity !== 0 && mark);
    const base = held.find(({ row }) => row.ratio === 1) ?? held[0];
    if (!base) return null;
    const sums = { delta: 0, gamma: 0, vega: 0, theta: 0 };
    for (const { row, quantity, mark } of held) {
      const units = quantity * row.multiplier;
      const ratio = (row.ratio ?? 1) / (base.row.ratio ?? 1);
      sums.delta += units * mark!.delta * ratio;
      sums.gamma += units * mark!.gamma * ratio * ratio;
      sums.vega += units * mark!.vega;
      sums.theta += units * mark!.theta;
    }
    const exposure = Object.entries(sums)
      .map(([name, value]) => `${name}:${Number(value.toPrecision(8))}`)
      .join();
    const { asof } = bench.context;
    const query = new URLSearchParams({
      symbol: base.contract.symbol,
      exposed: 'typed',
      exposure,
      ...(asof && { asof }),
    });
    return `/hedge?${query}`;
  }

  const money = (value: number) => figures.signed(value, 0);
  const profit = (value: number) => (value < 0 ? 'text-loss' : value > 0 ? 'text-gain' : '');
  /** In whose price moves can be told: underlyings of the book, by the ratios of their family, or by betas to any. */
  const families = $derived([...new Set(desk.legs.map(({ family }) => family))].sort());

  offerTable(
    'book-risk',
    () => `Risk of ${desk.book?.name ?? 'the book'}`,
    () =>
      desk.tree && {
        columns: [
          ...(['level', 'name'] as const).map((name) => ({ name, type: 'text' as const })),
          ...numberColumns([...columns.map(({ name }) => name), 'sinceEntry', 'sinceClose', 'sinceGhost']),
        ],
        rows: [...desk.rows.map(({ node }) => node), desk.tree].map((node) => [
          ...[node.level, wordsOf(node).name || 'book'],
          ...columns.map(({ name }) => node.sums[name]),
          ...[node.sums.sinceEntry, node.sums.sinceClose, node.sums.sinceGhost],
        ]),
      },
  );
</script>

{#snippet cells(node: RiskNode)}
  {#each columns as { name, hasBar } (name)}
    {@const value = node.sums[name]}
    <td class="cell">{money(value)}</td>
    {#if hasBar}
      {@const { left, width } = barOf(value, bars.get(name) ?? 0)}
      <td class="w-20 px-1" aria-hidden="true"
        ><span class="relative block h-2"
          ><span class="absolute inset-y-[-3px] left-1/2 w-px bg-line"></span><span
            class="absolute inset-y-0 bg-implied opacity-75"
            style="left: {left}%; width: {width}%"
          ></span></span
        ></td
      >
    {/if}
  {/each}
  <td class="cell {profit(node.sums[since.name])}">{money(node.sums[since.name])}</td>
{/snippet}

<section class="panel min-h-0 flex-1" aria-label="Families">
  <header class="flex flex-none flex-wrap items-center gap-x-2 gap-y-1 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Families</h2>
    <BookMenu {desk} />
    <span
      class="min-w-0 flex-1 truncate text-[12px] text-soft"
      title="in {desk.worth?.currency ?? 'money'}; gamma for one per cent, vega a point, theta a day"
      >in {desk.worth?.currency ?? 'money'}; gamma for 1 %</span
    >
    <Toggles
      label="Greeks"
      options={ORDERS}
      titles={(one) => `Greeks of the ${one} order`}
      bind:value={desk.params.order}
    />
    <Toggles label="Taken apart by" options={PARTS} bind:value={desk.params.part} />
    <select
      class="choice"
      aria-label="Worth by"
      title="what legs are worth: mids, the side at which they would be closed, or their curves"
      bind:value={desk.params.worthBy}
    >
      {#each WORTH_BY as one (one)}<option value={one}>at {one === 'closing' ? 'closing side' : one}</option>{/each}
    </select>
    <select
      class="choice max-w-32"
      aria-label="Moves told in"
      title="in whose price moves are told: related underlyings by the ratios of their family, all others by betas"
      bind:value={desk.params.told}
    >
      <option value={null}>each in its own</option>
      {#each desk.symbols as symbol (symbol)}<option value={symbol}>in {symbol}</option>{/each}
      {#each families as family (family)}<option value="beta:{family}">beta to {family}</option>{/each}
    </select>
  </header>
  <DataGrid
    label="Families"
    {heads}
    rows={desk.rows}
    keyOf={({ node }) => node.key}
    onchoose={({ node }) => desk.toggle(node.key)}
    canChoose={({ node }) => node.parts.length > 0}
    rowClass="group"
    isDense
    isEdged
    testid="book-families"
    none={desk.worth ? 'Nothing is held.' : 'Loading …'}
  >
    {#snippet row({ node, depth, isOpen })}
      {@const { name, also } = wordsOf(node)}
      {@const hedge = hedgeOf(node)}
      <th
        class="px-1.5 text-left text-[12.5px] whitespace-nowrap {depth > 1 ? 'font-normal' : 'font-semibold'}"
        style="padding-left: {6 + 14 * depth}px"
        aria-expanded={node.parts.length > 0 ? isOpen : undefined}
        ><span class="inline-block w-3 text-soft" aria-hidden="true"
          >{node.parts.length > 0 ? (isOpen ? '▾' : '▸') : ''}</span
        >{name}{also && ' '}{#if also}<span class="pl-1.5 text-[11px] font-normal text-soft">{also}</span
          >{/if}{#if node.missing > 0}<span
            class="text-loss"
            title="legs whose worth is not known: they are part of no sum"
          >
            {node.missing} not known</span
          >{/if}{#if hedge}<a
            class="pl-1.5 text-[11px] font-normal text-soft opacity-0 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100"
            href={hedge}
            title="what to trade so that its Greeks come to nothing"
            onclick={(event) => event.stopPropagation()}>hedge</a
          >{/if}</th
      >
      {@render cells(node)}
    {/snippet}
    {#snippet below()}
      {#if desk.tree && desk.tree.parts.length > 0}
        <tr class="border-t-2 border-ink font-semibold" data-key="book">
          <th class="px-1.5 text-left text-[12.5px]" scope="row"
            >Book <span class="pl-1 text-[11px] font-normal text-soft"
              >{figures.counted(desk.positions.length, 'position')}</span
            ></th
          >
          {@render cells(desk.tree)}
        </tr>
      {/if}
    {/snippet}
  </DataGrid>
</section>
