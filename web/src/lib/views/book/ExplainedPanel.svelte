<script lang="ts">
  import type { ProfitPart } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { offerTable } from '$lib/exports';
  import { figures, momentDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench } from '$lib/state';
  import { numberColumns, tabbed, type DataTable } from '$lib/tables';
  import { KeyArea, Toggles } from '$lib/ui';
  import { colorOf, daysFigure, partsDrawn } from './charts/days';
  import type { BookDesk } from './desk.svelte';
  import { explainedSentence, familiesOf, ofFamily, partLabel, STACKED, stepsOf } from './explain';
  import { METHODS, SINCES, TOLDS } from './params';

  /** What did it: the change since the ghost, the close before or the entry, part by part. */
  let { desk }: { desk: BookDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const zone = $derived(bench.market.calendar.zone);
  const families = $derived(familiesOf(desk.explained));
  /** A family that is chosen, unless a position is in focus. */
  const family = $derived(desk.position ? null : (families.find((one) => one === desk.params.explainedFamily) ?? null));
  const explained = $derived(desk.explained && family !== null ? ofFamily(desk.explained, family) : desk.explained);
  const steps = $derived(explained ? stepsOf(explained, desk.params.method) : []);
  const isByDay = $derived(desk.params.toldAs === 'days' && desk.position !== null);

  const ends = $derived.by(() => {
    const places = [0, ...steps.flatMap(({ from, to }) => [from, to])];
    const [low, high] = [Math.min(...places), Math.max(...places)];
    const span = high - low || 1;
    return { at: (value: number) => (100 * (value - low)) / span };
  });
  const barOf = (from: number, to: number) => {
    const [left, right] = [ends.at(Math.min(from, to)), ends.at(Math.max(from, to))];
    return `left: ${left}%; width: max(1px, ${right - left}%)`;
  };
  const since = $derived(explained ? momentDay(Date.parse(explained.from), zone) : '');
  const who = $derived(desk.position?.name ?? family ?? 'The book');
  const METHOD_WORDS = { turn: 'in turn', averaged: 'averaged', greeks: 'Greeks' } as const;
  const METHOD_TITLES = {
    turn: 'revalued part after part: price, time, events, level, skew, curvature, carry',
    averaged: 'averaged over all orders of the parts (Shapley)',
    greeks: 'by the Greeks of the begin, with what two of them do together',
  } as const;
  const SINCE_WORDS = { ghost: 'ghost', close: 'close', entry: 'entry' } as const;

  const days = $derived(explained && isByDay ? daysFigure(explained, theme.tokens, zone) : null);

  const table = (): DataTable => ({
    columns: [{ name: 'part', type: 'text' }, ...numberColumns(['in_turn', 'by_greeks'])],
    rows: [
      ...(explained?.parts ?? []).map(({ name, inTurn, byGreeks }) => [partLabel(name), inTurn, byGreeks]),
      ['cross terms', null, explained?.byGreeks.cross ?? null],
      [partLabel('rest'), explained?.rest ?? null, explained?.byGreeks.rest ?? null],
      ['change', explained?.change ?? null, explained?.change ?? null],
    ],
  });
  const daysTable = (): DataTable => ({
    columns: [{ name: 'day', type: 'instant' }, ...numberColumns([...STACKED, 'change'])],
    rows: (explained?.stretches ?? []).map(({ to, parts, change }) => [
      to,
      ...STACKED.map((part: ProfitPart) => parts[part]),
      change,
    ]),
  });
  offerTable(
    'book-explained',
    () => `What brought the change of ${desk.position?.name ?? desk.book?.name ?? 'the book'}`,
    () => (explained ? (isByDay ? daysTable() : table()) : null),
  );
</script>

<section class="panel min-h-0 flex-1" aria-label="Explained">
  <header class="flex flex-none flex-wrap items-center gap-x-2 gap-y-1 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Explained</h2>
    {#if desk.position}
      <span
        class="min-w-0 flex-1 truncate text-[12px] text-soft"
        data-testid="book-explained-of"
        title={desk.position.name}>{desk.position.name}</span
      >
    {:else}
      <select class="choice max-w-24" aria-label="Whose change" bind:value={desk.params.explainedFamily}>
        <option value={null}>all of the book</option>
        {#each families as one (one)}<option value={one}>{one}</option>{/each}
      </select>
      <span class="flex-1"></span>
    {/if}
    <select
      class="choice"
      aria-label="Since"
      title="since the ghost, the close before, or the entry"
      bind:value={desk.params.explainedSince}
    >
      {#each SINCES as one (one)}<option value={one}>{SINCE_WORDS[one]}</option>{/each}
    </select>
    <Toggles
      label="How it is explained"
      options={METHODS}
      words={(one) => METHOD_WORDS[one]}
      titles={(one) => METHOD_TITLES[one]}
      bind:value={desk.params.method}
    />
    {#if desk.position}<Toggles
        label="Told"
        options={TOLDS}
        words={(one) => (one === 'days' ? 'by day' : one)}
        bind:value={desk.params.toldAs}
      />{/if}
  </header>
  {#if explained && !desk.explainedProblem}
    {#if days}
      <p class="m-0 flex flex-none flex-wrap gap-x-2 px-3 text-[10.5px] leading-[14px] text-soft">
        {#each partsDrawn(explained) as part (part)}<span class="flex items-center gap-1"
            ><span class="inline-block size-2" style="background: {colorOf(part, theme.tokens)}"></span>{partLabel(
              part,
            )}</span
          >{/each}
      </p>
      <Chart figure={days} name="book-days" label="What each day brought, part by part" />
    {:else}
      <KeyArea label="What brought the change" class="min-h-0 flex-1 overflow-auto px-3" copied={() => tabbed(table())}>
        <table class="w-full border-collapse text-[12px]" data-testid="book-explained">
          <tbody>
            {#each steps as { key, label, title, from, to, amount } (key)}
              <tr class="leading-[14px]">
                <th class="w-28 text-left font-normal whitespace-nowrap" {title}>{label}</th>
                <td class="relative h-[14px]" aria-hidden="true"
                  ><span class="absolute inset-y-0 w-px bg-line" style="left: {ends.at(0)}%"></span><span
                    class="absolute inset-y-[3px] {amount < 0 ? 'hatched' : 'bg-[var(--gain)]'}"
                    style={barOf(from, to)}
                  ></span></td
                >
                <td class="figures w-20 text-right {amount < 0 ? 'text-loss' : 'text-gain'}"
                  >{figures.signed(amount, 0)}</td
                >
              </tr>
            {/each}
            <tr class="border-t border-line font-semibold">
              <th class="text-left">change</th>
              <td class="relative h-[15px]" aria-hidden="true"
                ><span class="absolute inset-y-[3px] bg-ink" style={barOf(0, explained.change)}></span></td
              >
              <td class="figures text-right" data-testid="book-change">{figures.signed(explained.change, 0)}</td>
            </tr>
          </tbody>
        </table>
      </KeyArea>
    {/if}
    <div class="flex-none px-2 pb-2">
      <Sentence sentence={explainedSentence(explained, who, since, (id) => desk.nameOf(id))} />
    </div>
  {:else}
    <p class="m-auto px-4 text-center text-soft" role={desk.explainedProblem ? 'alert' : undefined}>
      {desk.explainedProblem ?? 'Working out …'}
    </p>
  {/if}
</section>

<style>
  .hatched {
    background: repeating-linear-gradient(-45deg, var(--loss) 0 2px, transparent 2px 4px);
  }
</style>
