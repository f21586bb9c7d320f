<script lang="ts">
  import type { ExpiryId } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import { decayRows } from './theta';
  import { decayWork } from './work';

  const bench = useWorkbench();
  const shown = $derived(bench.snapshot.shown);
  const focus = $derived(bench.focus.current);
  const rows = $derived(shown && focus ? decayRows(shown.snapshot, shown.values, focus.strike, focus.side) : []);
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);
  const decimals = $derived(bench.market.decimals);

  const choose = ({ expiry, settlement }: ExpiryId) => bench.focus.set({ expiry, settlement });

  const NAMES = ['days', 'vol', 'theory', 'delta', 'theta', 'share', 'vega', 'volChange', 'move'] as const;
  offerTable(
    'theta-board',
    () => `Decay of ${bench.context.symbol} ${figures.strike(focus?.strike)} ${focus?.side} by expiry`,
    () => ({
      columns: [{ name: 'expiry', type: 'day' }, { name: 'settlement', type: 'text' }, ...numberColumns(NAMES)],
      rows: rows.map((row) => [row.expiry, row.settlement, ...NAMES.map((name) => row[name])]),
    }),
  );

  const HEADS: readonly Head[] = [
    { label: 'expiry', align: 'left' },
    { label: 'days' },
    { label: 'vol' },
    { label: 'theory' },
    { label: 'delta' },
    { label: 'theta', title: 'per calendar day, for a unit of the underlying' },
    { label: 'a contract', title: 'per calendar day, for one contract' },
    { label: '% a day', title: 'of the theoretical price, in a day' },
    { label: 'vega', title: 'per vol point' },
    { label: 'vol to undo', title: 'vol points that undo a day: −theta over vega' },
    { label: 'move to undo', title: 'move of the underlying that undoes a day: −theta over |delta|' },
  ];
</script>

<p class="m-0 px-3 pb-1 text-[11.5px] text-soft">
  {figures.strike(focus?.strike)}
  {focus?.side} in every expiry that lists it, on the {shown?.basis} basis: what a day costs, and what makes it good
</p>
<DataGrid
  label="Decay by expiry"
  heads={HEADS}
  {rows}
  keyOf={(row) => row.slice}
  isDense
  isEdged
  testid="theta-board"
  isLit={(row) => row.slice === focus?.slice}
  onchoose={choose}
  none="No expiry lists this strike."
>
  {#snippet row(row)}
    <th class="cell text-left!">{shortExpiry(row, shown?.snapshot.asof.slice(0, 4))}</th>
    <td class="cell">{figures.days(row.days)}</td>
    {#each [figures.vol(row.vol), figures.fixed(row.theory, decimals), figures.fixed(row.delta, 3), figures.fixed(row.theta, decimals + 1), figures.fixed(row.theta * multiplier, 2), figures.fixed(100 * row.share, 2), figures.fixed(row.vega, decimals + 1), figures.signed(row.volChange, 2), figures.fixed(row.move, decimals)] as text, i (i)}
      <td class="cell"
        ><Worked open={() => focus && (bench.dialogs.work = decayWork(row, focus.strike, focus.side, multiplier))}
          >{text}</Worked
        ></td
      >
    {/each}
  {/snippet}
</DataGrid>
