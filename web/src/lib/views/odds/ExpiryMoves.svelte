<script lang="ts">
  import { dayOf, MINUTES_PER_YEAR, sessionMove, STRADDLE_CHOICES, isSameExpiry } from '@umwelt/core';
  import { depthColor } from '$lib/charts';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { expiryWork } from '$lib/working/expiry';
  import type { OddsDesk } from './desk.svelte';
  import { standingWords, movesSentence } from './words';
  import { stepWork } from './work';
  import { PARAMS } from './params';
  import { DataGrid, Toggles, Worked, type Head } from '$lib/ui';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const decimals = $derived(bench.market.decimals);
  /** An expiry that is nearer counts in minutes. */
  const ZERO_DAY_MINUTES = 24 * 60;

  const rows = $derived(
    (bench.snapshot.shown?.snapshot.slices ?? []).map((slice, at) => {
      const { fit } = slice;
      const straddle = desk.straddleOf(slice);
      const move = straddle?.move ?? NaN;
      const deviation = fit.deviationMove;
      const known = move > 0 ? move : deviation;
      const minutes = fit.years * MINUTES_PER_YEAR;
      return {
        ...{ slice, at, fit, straddle, move, deviation, ratio: move / deviation, low: fit.forward - known },
        ...{ high: fit.forward + known, share: known / fit.forward, daily: sessionMove(fit.atmVol), minutes },
        isZeroDay: minutes > 0 && minutes < ZERO_DAY_MINUTES,
        isOver: !(fit.years > 0),
      };
    }),
  );
  const open = $derived(desk.history?.steps.find(({ outcome }) => outcome === 'open'));
  /** The first announcement ahead that carries something. */
  const event = $derived.by(() => {
    const found = desk.events.find(({ move }) => move > 0);
    return found ? { title: found.title, day: dayOf(bench.market.calendar, found.at), move: found.move } : null;
  });
  const sentence = $derived(
    movesSentence(
      rows
        .filter(({ isOver }) => !isOver)
        .map(({ fit, ratio, move, isZeroDay, minutes }) => ({
          ...{ expiry: fit.expiry, settlement: fit.settlement, ratio, straddle: move, isZeroDay, minutes },
        })),
      event,
    ),
  );

  const CHOICE_WORDS = {
    forward: 'priced at the forward, with the vols of the mids at the two strikes around it',
    bracket: 'the two strikes around the forward, weighted by distance: too much where strikes are coarse',
    nearest: 'the strike nearest to the forward alone: too much by what it lies off the forward',
  } as const;

  function whyNot({ strike, fit }: (typeof rows)[number]['slice']): string {
    if (strike.length === 0) return 'no strike is listed';
    if (fit.usable === 0) return 'no quote can be used';
    return 'no strike has both sides to be used';
  }

  /** The straddle at the forward says how well it is known, where that is less than its digits. */
  const doubtOf = ({ fit, straddle }: (typeof rows)[number]) =>
    straddle?.choice === 'forward' && !fit.borrowed ? figures.doubt(fit.straddleUncertainty, decimals) : '';
  const asUsed = ({ straddle }: (typeof rows)[number]) =>
    (straddle?.parts ?? [])
      .map(({ strike, callMid, putMid, vol, weight }) =>
        straddle!.choice === 'forward'
          ? `${figures.strike(strike)} (vol ${figures.vol(vol)}) × ${figures.fixed(weight, 2)}`
          : `${figures.strike(strike)} (${figures.fixed(callMid, decimals)} + ${figures.fixed(putMid, decimals)}) × ${figures.fixed(weight, 2)}`,
      )
      .join(' and ');

  function openAt(
    { fit, straddle }: (typeof rows)[number],
    at: 'straddle' | 'deviation' | 'ratio' | 'levels' | 'daily',
  ) {
    bench.dialogs.work = { ...expiryWork(fit, straddle), at };
  }

  const NAMES = ['days', 'straddle', 'deviation', 'ratio', 'low', 'high', 'share', 'daily'] as const;
  offerTable(
    'expected-moves-by-expiry',
    () => `Expected moves of ${bench.context.symbol} by expiry`,
    () => ({
      columns: [
        { name: 'expiry', type: 'day' },
        { name: 'settlement', type: 'text' },
        ...numberColumns(NAMES),
        { name: 'strikes', type: 'text' },
      ],
      rows: rows.map((row) => [
        ...[
          row.fit.expiry,
          row.fit.settlement,
          row.fit.days,
          row.move,
          row.deviation,
          row.ratio,
          row.low,
          row.high,
          row.share,
          row.daily,
        ],
        row.straddle?.parts.map(({ strike }) => strike).join(' ') ?? '',
      ]),
    }),
  );

  const HEADS: readonly Head[] = [
    { label: 'expiry', align: 'left' },
    { label: 'days' },
    { label: 'straddle', hasParts: true },
    { label: '1 dev.', title: 'one deviation, F·σ·√T' },
    { label: 'ratio', title: 'straddle over deviation; common practice: 0.8' },
    { label: 'levels', title: 'forward ∓ straddle' },
    { label: '%', title: 'of the forward' },
    { label: 'a day %', title: 'vol ÷ √252' },
    { label: 'now' },
  ];
</script>

<DataGrid
  label="Expected moves by expiry"
  heads={HEADS}
  {rows}
  keyOf={(row) => row.at}
  isDense
  isEdged
  testid="expiry-moves"
  isLit={(row) => row.at === desk.at}
  onchoose={({ fit }) => bench.focus.set({ expiry: fit.expiry, settlement: fit.settlement })}
>
  {#snippet head({ label }: Head)}
    <Toggles
      label="Which straddle"
      options={STRADDLE_CHOICES}
      titles={(choice) => CHOICE_WORDS[choice]}
      bind:value={params.straddleChoice}
    />
    {label}
  {/snippet}
  {#snippet row(row)}
    {@const { fit } = row}

    <th class="cell text-left! font-[inherit]">
      <span class="flex items-center gap-1.5">
        <span class="size-2.5 rounded-[2px]" style="background: {depthColor(fit.days, theme.tokens)}"
        ></span>{shortExpiry(fit, bench.snapshot.shown?.snapshot.asof.slice(0, 4))}{fit.expiryAside ? ' ◆' : ''}
      </span>
    </th>
    <td class="cell">{row.isZeroDay ? `${figures.count(row.minutes)} min` : figures.days(fit.days)}</td>
    {#if row.isOver}
      <td class="cell text-left! text-soft" colspan="7">over</td>
    {:else}
      <td class="cell" title={row.straddle ? `of ${asUsed(row)}, mids` : whyNot(row.slice)}>
        {#if row.straddle}<Worked open={() => openAt(row, 'straddle')}
            ><span class="text-[10.5px] font-normal text-soft"
              >{row.straddle.parts.map(({ strike }) => figures.strike(strike)).join(' · ')}</span
            >
            {figures.plusMinus(row.move, decimals)}</Worked
          ><Doubt text={doubtOf(row)} />{:else}<span class="text-soft">{whyNot(row.slice)}</span>{/if}
      </td>
      <td class="cell"
        ><Worked open={() => openAt(row, 'deviation')}>{figures.plusMinus(row.deviation, decimals)}</Worked></td
      >
      <td class="cell"><Worked open={() => openAt(row, 'ratio')}>{figures.fixed(row.ratio, 2)}</Worked></td>
      <td class="cell"
        ><Worked open={() => openAt(row, 'levels')}
          >{figures.fixed(row.low, decimals)} … {figures.fixed(row.high, decimals)}</Worked
        ></td
      >
      <td class="cell"><Worked open={() => openAt(row, 'levels')}>{figures.fixed(100 * row.share, 2)}</Worked></td>
      <td class="cell"><Worked open={() => openAt(row, 'daily')}>{figures.fixed(100 * row.daily, 2)}</Worked></td>
      <td class="cell">
        {#if open && isSameExpiry(open, fit)}<span class={Math.abs(open.times) > 1 ? 'text-loss' : ''}
            ><Worked title={standingWords(open)} open={() => (bench.dialogs.work = stepWork(open, params.moveMeasure))}
              >{Math.abs(open.times) > 1 ? '◆ ' : ''}{figures.fixed(Math.abs(open.times), 1)}
              {open.times < 0 ? 'down' : 'up'}</Worked
            ></span
          >{/if}
      </td>
    {/if}
  {/snippet}
</DataGrid>
<div class="flex-none p-2 pt-1"><Sentence {sentence} /></div>
