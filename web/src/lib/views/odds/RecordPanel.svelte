<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { figures, shortDay, shortExpiry } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import Worked from '$lib/working/Worked.svelte';
  import WorkedArea from '$lib/working/WorkedArea.svelte';
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
</script>

{#if history}
  <div class="grid min-h-0 flex-1 grid-cols-[3fr_2fr] gap-3 px-2 pb-2">
    <WorkedArea label="What became of each" class="min-h-0 overflow-auto">
      <table class="dense w-full border-collapse" data-testid="move-steps">
        <thead>
          <tr>
            <th class="head-cell text-left!">{params.stepKind}</th>
            <th class="head-cell" title="the price when it was known">price</th>
            <th class="head-cell">move</th>
            <th class="head-cell" title="what the price was when it was over">became</th>
            <th class="head-cell" title="outcome over the move">moves</th>
            <td class="head-cell text-left!"></td>
          </tr>
        </thead>
        <tbody>
          {#each latest as step (step.from + step.to)}
            {@const isBreach = step.outcome === 'over' || step.outcome === 'under'}
            <tr class="border-b border-line {isBreach ? 'text-loss' : ''}">
              <th class="cell text-left! font-normal">{shortDay(step.from)} – {shortDay(step.to)}</th>
              {#each [figures.fixed(step.price, decimals), figures.plusMinus(step.move, decimals), figures.fixed(step.close, decimals), figures.signed(step.times, 2)] as text, i (i)}
                <td class="cell" title={i === 1 ? `read from the expiry of ${shortExpiry(step)}` : undefined}
                  ><Worked open={() => (bench.dialogs.work = stepWork(step, params.moveMeasure))}>{text}</Worked></td
                >
              {/each}
              <td class="cell text-left!">{OUTCOMES[step.outcome]}</td>
            </tr>
          {:else}
            <tr><td class="p-3 text-soft" colspan="6">No expected move of the past is held.</td></tr>
          {/each}
        </tbody>
      </table>
    </WorkedArea>
    <WorkedArea label="How many stayed inside" class="min-h-0 overflow-auto">
      <table class="dense w-full border-collapse" data-testid="move-record">
        <thead>
          <tr>
            <th
              class="head-cell text-left!"
              title="of every expiry at the end of every session that is held; they overlap"
              >every expiry, sessions left</th
            >
            <th class="head-cell">moves</th>
            <th class="head-cell">inside</th>
            <th class="head-cell" title="inside, less what a fair one gives">− {figures.percent(fair, 0)}</th>
          </tr>
        </thead>
        <tbody>
          {#each history.bySessions as span (span.label)}
            {@const { label, count, inside } = span}
            {@const open = () => (bench.dialogs.work = insideWork(span, params.moveMeasure, fair))}
            <tr class="border-b border-line">
              <th class="cell text-left! font-normal">{label}</th>
              <td class="cell">{figures.count(count)}</td>
              <td class="cell"><Worked {open}>{count > 0 ? figures.percent(inside / count) : '–'}</Worked></td>
              <td class="cell"
                ><Worked {open}>{count > 0 ? figures.signed(100 * (inside / count - fair), 1) : ''}</Worked></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="m-0 pt-2 text-[11px] text-soft">
        {figures.count(history.records.length)} outcomes of the {params.moveMeasure} over {figures.counted(
          new Set(history.records.map(({ day }) => day)).size,
          'session',
        )}: they overlap, so that they say less than as many would.
      </p>
    </WorkedArea>
  </div>
{:else}
  <p class="m-auto text-soft">{desk.moves.problem ?? 'Following the moves of the past …'}</p>
{/if}
