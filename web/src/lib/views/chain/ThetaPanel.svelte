<script lang="ts">
  import type { ExpiryId } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import Worked from '$lib/working/Worked.svelte';
  import WorkedArea from '$lib/working/WorkedArea.svelte';
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
</script>

<p class="m-0 px-3 pb-1 text-[11.5px] text-soft">
  {figures.strike(focus?.strike)}
  {focus?.side} in every expiry that lists it, on the {shown?.basis} basis: what a day costs, and what makes it good
</p>
<WorkedArea label="Decay by expiry" class="min-h-0 flex-1 overflow-auto">
  <table class="dense w-full border-collapse" data-testid="theta-board">
    <thead>
      <tr>
        <th class="head-cell pl-3! text-left!">expiry</th>
        <th class="head-cell">days</th>
        <th class="head-cell">vol</th>
        <th class="head-cell">theory</th>
        <th class="head-cell">delta</th>
        <th class="head-cell" title="per calendar day, for a unit of the underlying">theta</th>
        <th class="head-cell" title="per calendar day, for one contract">a contract</th>
        <th class="head-cell" title="of the theoretical price, in a day">% a day</th>
        <th class="head-cell" title="per vol point">vega</th>
        <th class="head-cell" title="vol points that undo a day: −theta over vega">vol to undo</th>
        <th class="head-cell" title="move of the underlying that undoes a day: −theta over |delta|">move to undo</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as row (row.slice)}
        <tr
          class="cursor-pointer border-b border-line hover:bg-band {row.slice === focus?.slice ? 'bg-band' : ''}"
          onclick={() => choose(row)}
        >
          <th class="cell pl-3! text-left!"
            ><button class="cursor-pointer font-semibold" onclick={() => choose(row)}
              >{shortExpiry(row, shown?.snapshot.asof.slice(0, 4))}</button
            ></th
          >
          <td class="cell">{figures.days(row.days)}</td>
          {#each [figures.vol(row.vol), figures.fixed(row.theory, decimals), figures.fixed(row.delta, 3), figures.fixed(row.theta, decimals + 1), figures.fixed(row.theta * multiplier, 2), figures.fixed(100 * row.share, 2), figures.fixed(row.vega, decimals + 1), figures.signed(row.volChange, 2), figures.fixed(row.move, decimals)] as text, i (i)}
            <td class="cell"
              ><Worked open={() => focus && (bench.dialogs.work = decayWork(row, focus.strike, focus.side, multiplier))}
                >{text}</Worked
              ></td
            >
          {/each}
        </tr>
      {:else}
        <tr><td class="p-3 text-soft" colspan="11">No expiry lists this strike.</td></tr>
      {/each}
    </tbody>
  </table>
</WorkedArea>
