<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { figures, momentDay, shortExpiry } from '$lib/formats';
  import type { BookLeg, Position } from '$lib/book';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, TitleTabs, Toggles, type Head } from '$lib/ui';
  import type { BookDesk } from './desk.svelte';
  import JournalPart from './JournalPart.svelte';
  import { BELOWS, STATES } from './params';
  import { sparkOf } from './spark';
  import PositionPart from './PositionPart.svelte';
  import ReplayPart from './ReplayPart.svelte';

  /** What is held, what it was entered at, and what it has brought. */
  let { desk }: { desk: BookDesk } = $props();

  const bench = useWorkbench();
  const zone = $derived(bench.market.calendar.zone);

  const heads = $derived<Head[]>([
    { label: 'position', align: 'left' },
    { label: 'strikes', align: 'left' },
    { label: 'lots', title: 'like units that it is made of; sold is minus' },
    { label: 'entry', title: 'of one unit: what was paid for it or taken in' },
    { label: 'now' },
    { label: 'profit by day', align: 'center', class: 'w-20' },
    { label: 'since entry', title: 'with what was closed, dividends and fees' },
    { label: '%', title: 'of what was paid or taken in at the entry of what is open' },
    { label: 'today', title: 'since the close before' },
    ...(desk.hasGhost ? [{ label: 'since ghost' }] : []),
  ]);

  const legsOf = $derived.by(() => {
    const byPosition: Record<number, BookLeg[]> = {};
    for (const leg of desk.worth?.legs ?? []) (byPosition[leg.position] ??= []).push(leg);
    return byPosition;
  });

  /** What is to be known of a position: sold legs that may be assigned early. */
  const warningsOf = (id: number): string[] =>
    (desk.worth?.warnings ?? []).flatMap(({ position, words }) => (position === id ? [words] : []));

  /** Strikes from the lowest on, and expiries where they are several. */
  function strikesOf({ id }: Position): string {
    const all = legsOf[id] ?? [];
    const held = all.filter(({ quantity }) => quantity !== 0);
    const legs = held.length > 0 ? held : all;
    const strikes = [...new Set(legs.flatMap(({ strike }) => (strike === null ? [] : [strike])))].sort((a, b) => a - b);
    const expiries = [
      ...new Set(
        legs.flatMap(({ expiry, settlement }) => (expiry === null ? [] : [shortExpiry({ expiry, settlement })])),
      ),
    ];
    return [strikes.map((one) => figures.strike(one)).join('/'), expiries.join(', ')].filter(Boolean).join(' · ');
  }

  const SPARK = 66;
  const digits = (value: number | null) => (value === null ? 2 : Math.abs(value) < 1 ? 4 : 2);
  const money = (value: number | null) => figures.signed(value, 0);
  const look = (value: number | null) => ((value ?? 0) < 0 ? 'text-loss' : (value ?? 0) > 0 ? 'text-gain' : '');
  /** Of what was paid or taken in for what is open. */
  function shareOf({ profit, entry, value }: Position): number | null {
    const cost = (value ?? NaN) - (profit.open ?? NaN);
    return entry === null || !Number.isFinite(cost) || cost === 0 ? null : (profit.open ?? NaN) / Math.abs(cost);
  }
  const sum = (of: (position: Position) => number | null) =>
    desk.positions.reduce((all, one) => all + (of(one) ?? 0), 0);
  const NAMES = { positions: 'Positions', position: 'Position', replay: 'Replay', journal: 'Journal' } as const;

  offerTable(
    'book-positions',
    () => `Positions of ${desk.book?.name ?? 'the book'}`,
    () =>
      desk.worth && {
        columns: [
          ...(['position', 'symbol', 'strikes', 'tags'] as const).map((name) => ({ name, type: 'text' as const })),
          ...numberColumns([
            'lots',
            'entry',
            'now',
            'value',
            'open',
            'realized',
            'fees',
            'income',
            'since_entry',
            'since_close',
            'since_ghost',
          ]),
          { name: 'opened', type: 'instant' },
        ],
        rows: desk.positions.map((one) => [
          ...[one.name, one.symbol, strikesOf(one), one.tags.join('; '), one.lots, one.entry, one.now, one.value],
          ...[one.profit.open, one.profit.realized, one.profit.fees, one.profit.income],
          ...[one.profit.sinceEntry, one.profit.sinceClose, one.profit.sinceGhost, one.opened],
        ]),
      },
    () => (desk.book ? `/positions?book=${desk.book.id}&format=csv` : null),
  );
</script>

<section class="panel min-h-0 flex-1" aria-label={NAMES[desk.params.shownBelow]}>
  <header class="flex flex-none flex-wrap items-center gap-x-2 gap-y-1 px-3 pt-2">
    <TitleTabs
      label="Under the families"
      options={BELOWS}
      names={NAMES}
      title={desk.params.shownBelow === 'position' ? desk.position?.name : undefined}
      bind:value={desk.params.shownBelow}
    />
    <span class="min-w-0 flex-1 truncate text-[12px] text-soft"
      >{desk.params.shownBelow === 'positions' ? `profit in ${desk.worth?.currency ?? 'money'}, with fees` : ''}</span
    >
    {#if desk.refusal}<span class="text-[12px] text-loss" role="alert">{desk.refusal}</span>{/if}
    <button
      class="btn btn-xs"
      disabled={!desk.book?.undo}
      title={desk.book?.undo ? `undo: ${desk.book.undo}` : 'nothing to undo'}
      onclick={() => desk.undo()}>undo</button
    >
    <button
      class="btn btn-xs"
      disabled={!desk.book?.redo}
      title={desk.book?.redo ? `redo: ${desk.book.redo}` : 'nothing to redo'}
      onclick={() => desk.redo()}>redo</button
    >
    {#if desk.params.shownBelow === 'positions'}<button
        class="btn btn-xs"
        title="a position by hand"
        onclick={() => desk.open()}>new</button
      ><Toggles label="Positions shown" options={STATES} bind:value={desk.params.shown} />{/if}
  </header>
  {#if desk.params.shownBelow === 'positions'}
    <DataGrid
      label="Positions"
      {heads}
      rows={desk.positions}
      keyOf={({ id }) => id}
      isLit={({ id }) => id === desk.params.positionId}
      rowTitle={({ id, opened, tags, note }) =>
        [opened && `opened ${momentDay(Date.parse(opened), zone)}`, tags.join(', '), note, ...warningsOf(id)]
          .filter(Boolean)
          .join('; ')}
      onchoose={({ id }) => desk.choose(id)}
      isDense
      isEdged
      testid="book-positions"
      none={desk.worth
        ? 'No positions. Put legs into the book from Structure, or import a file of fills.'
        : (desk.problem ?? 'Loading …')}
    >
      {#snippet row(one)}
        {@const share = shareOf(one)}
        <th class="px-1.5 text-left text-[12.5px] font-semibold whitespace-nowrap"
          >{one.name}{#if warningsOf(one.id).length > 0}<span class="pl-1 text-[11px] font-normal text-loss">early</span
            >{/if}</th
        >
        <td class="cell max-w-36 truncate text-left! text-soft">{strikesOf(one)}</td>
        <td class="cell">{one.lots === 0 ? '' : figures.signed(one.lots, 0)}</td>
        <td class="cell">{one.entry === null ? '' : figures.fixed(one.entry, digits(one.entry))}</td>
        <td class="cell">{one.lots === 0 ? '' : figures.fixed(one.now, digits(one.entry))}</td>
        <td class="w-20 px-1"
          >{#if desk.profitsOf(one.id)}{@const spark = sparkOf(desk.profitsOf(one.id)!, SPARK, 16)}{#if spark}<svg
                width={SPARK}
                height="16"
                class="block"
                aria-hidden="true"
                ><path d={spark.gains} fill="var(--gain)" opacity="0.25" /><path
                  d={spark.losses}
                  fill="var(--loss)"
                  opacity="0.25"
                /><line x1="0" x2={SPARK} y1={spark.zero} y2={spark.zero} stroke="var(--line)" /><path
                  d={spark.line}
                  fill="none"
                  stroke="var(--{(one.profit.sinceEntry ?? 0) < 0 ? 'loss' : 'gain'})"
                  stroke-width="1.4"
                /></svg
              >{/if}{/if}</td
        >
        <td class="cell font-semibold {look(one.profit.sinceEntry)}">{money(one.profit.sinceEntry)}</td>
        <td class="cell {look(share)}">{share === null ? '' : `${figures.signed(100 * share, 0)} %`}</td>
        <td class="cell {look(one.profit.sinceClose)}">{money(one.profit.sinceClose)}</td>
        {#if desk.hasGhost}<td class="cell {look(one.profit.sinceGhost)}">{money(one.profit.sinceGhost)}</td>{/if}
      {/snippet}
      {#snippet below()}
        {#if desk.positions.length > 0}
          <tr class="border-t-2 border-ink font-semibold" data-key="book">
            <th class="px-1.5 text-left text-[12.5px]" scope="row">Book</th>
            <td colspan="5"></td>
            <td class="cell {look(sum(({ profit }) => profit.sinceEntry))}"
              >{money(sum(({ profit }) => profit.sinceEntry))}</td
            >
            <td></td>
            <td class="cell {look(sum(({ profit }) => profit.sinceClose))}"
              >{money(sum(({ profit }) => profit.sinceClose))}</td
            >
            {#if desk.hasGhost}<td class="cell {look(sum(({ profit }) => profit.sinceGhost))}"
                >{money(sum(({ profit }) => profit.sinceGhost))}</td
              >{/if}
          </tr>
        {/if}
      {/snippet}
    </DataGrid>
  {:else if desk.params.shownBelow === 'position'}<PositionPart {desk} />
  {:else if desk.params.shownBelow === 'replay'}<ReplayPart {desk} />
  {:else}<JournalPart {desk} />{/if}
</section>
