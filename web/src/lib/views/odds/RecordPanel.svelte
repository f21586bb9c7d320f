<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { figures, shortDay, shortExpiry } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import type { OddsDesk } from './desk.svelte';
  import { insideWork, stepWork } from './work';
  import { PARAMS } from './params';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const history = $derived(desk.history);
  const latest = $derived((history?.steps ?? []).toReversed());
  const fair = $derived(history?.count.fair ?? NaN);
  const OUTCOMES = { inside: 'inside', over: '◆ over', under: '◆ under', open: 'under way' } as const;

  offerTable(
    'move-record',
    () => `What became of the expected moves of ${bench.context.symbol}, every expiry of every session`,
    () =>
      history && {
        columns: [
          { name: 'day', type: 'day' },
          { name: 'expiry', type: 'day' },
          ...numberColumns(['sessions', 'times']),
        ],
        rows: history.records.map(({ day, expiry, sessions, times }) => [day, expiry, sessions, times]),
      },
  );

  const heads = $derived<readonly Head[]>([
    { label: params.stepKind, align: 'left' },
    { label: 'price', title: 'the price when it was known' },
    { label: 'move' },
    { label: 'became', title: 'what the price was when it was over' },
    { label: 'moves', title: 'outcome over the move' },
    { label: '', align: 'left' },
  ]);

  const insideHeads = $derived<readonly Head[]>([
    {
      label: 'every expiry, sessions left',
      title: 'of every expiry at the end of every session that is held; they overlap',
      align: 'left',
    },
    { label: 'moves' },
    { label: 'inside' },
    { label: `− ${figures.percent(fair, 0)}`, title: 'inside, less what a fair one gives' },
  ]);
</script>

{#if history}
  <div class="grid min-h-0 flex-1 grid-cols-[3fr_2fr] gap-3 px-2 pb-2">
    <DataGrid
      label="What became of each"
      {heads}
      rows={latest}
      keyOf={(step) => step.from + step.to}
      isDense
      area="min-h-0 overflow-auto"
      testid="move-steps"
      rowClass={({ outcome }) => (outcome === 'over' || outcome === 'under') && 'text-loss'}
      none="No expected move of the past is held."
    >
      {#snippet row(step)}
        <th class="cell text-left! font-normal">{shortDay(step.from)} – {shortDay(step.to)}</th>
        {#each [figures.fixed(step.price, decimals), figures.plusMinus(step.move, decimals), figures.fixed(step.close, decimals), figures.signed(step.times, 2)] as text, i (i)}
          <td class="cell" title={i === 1 ? `read from the expiry of ${shortExpiry(step)}` : undefined}
            ><Worked open={() => (bench.dialogs.work = stepWork(step, params.moveMeasure))}>{text}</Worked></td
          >
        {/each}
        <td class="cell text-left!">{OUTCOMES[step.outcome]}</td>
      {/snippet}
    </DataGrid>
    <div class="flex min-h-0 flex-col">
      <DataGrid
        label="How many stayed inside"
        heads={insideHeads}
        rows={history.bySessions}
        keyOf={(span) => span.label}
        isDense
        area="min-h-0 overflow-auto"
        testid="move-record"
      >
        {#snippet row(span)}
          {@const { label, count, inside } = span}
          {@const open = () => (bench.dialogs.work = insideWork(span, params.moveMeasure, fair))}

          <th class="cell text-left! font-normal">{label}</th>
          <td class="cell">{figures.count(count)}</td>
          <td class="cell"><Worked {open}>{count > 0 ? figures.percent(inside / count) : '–'}</Worked></td>
          <td class="cell"
            ><Worked {open}>{count > 0 ? figures.signed(100 * (inside / count - fair), 1) : ''}</Worked></td
          >
        {/snippet}
      </DataGrid>
      <p class="m-0 pt-2 text-[11px] text-soft">
        {figures.count(history.records.length)} outcomes of the {params.moveMeasure} over {figures.counted(
          new Set(history.records.map(({ day }) => day)).size,
          'session',
        )}: they overlap, so that they say less than as many would.
      </p>
    </div>
  </div>
{:else}
  <p class="m-auto text-soft">{desk.moves.problem ?? 'Following the moves of the past …'}</p>
{/if}
