<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { clockTime, figures, momentDay, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import type { OddsDesk } from './desk.svelte';
  import { eventWork } from './work';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const rows = $derived(desk.events);
  const { zone } = $derived(bench.market.calendar);

  const sentence = $derived.by(() => {
    const [next] = rows;
    if (!next) return { lead: 'No announcement ahead', rest: 'that an expiry lies after is known.' };
    const sizes = next.past.map(({ move }) => Math.abs(move)).filter(Number.isFinite);
    const mean = sizes.reduce((sum, size) => sum + size / sizes.length, 0);
    const beyond = sizes.filter((size) => size > next.move).length;
    const past =
      sizes.length > 0
        ? ` The last ${figures.count(sizes.length)} moved it by ${figures.percent(mean, 2)} on average, ${figures.count(beyond)} of them by more.`
        : ' None of the past is held to compare it with.';
    if (!(next.move > 0))
      return {
        lead: `${next.title} on ${momentDay(next.at, zone)} cannot be told apart:`,
        rest: `the expiries around it carry no more variance than others do.${past}`,
      };
    return {
      lead: `${next.title} on ${momentDay(next.at, zone)} is priced as ± ${figures.percent(next.move, 2)} of one day,`,
      rest: `over an ambient vol of ${figures.vol(next.ambientVol)}.${past}`,
    };
  });

  offerTable(
    'event-moves',
    () => `Event moves of ${bench.context.symbol}`,
    () => ({
      columns: [
        { name: 'time', type: 'instant' },
        { name: 'title', type: 'text' },
        { name: 'before', type: 'text' },
        { name: 'after', type: 'day' },
        ...numberColumns(['move', 'ambient_vol', 'stretch_vol']),
      ],
      rows: rows.map((row) => [
        ...[new Date(row.at).toISOString(), row.title, row.before ?? '', row.after, row.move],
        ...[row.ambientVol, row.stretchVol],
      ]),
    }),
  );

  const HEADS: readonly Head[] = [
    { label: 'announcement', align: 'left' },
    { label: 'when', align: 'left' },
    { label: 'between', title: 'the last expiry before it, and the first after it' },
    { label: 'move', title: 'one deviation of its own variance, in the price' },
    { label: 'ambient', title: 'vol of the stretch without it' },
    { label: 'stretch', title: 'vol of the stretch between the two expiries' },
    { label: 'past moves', title: 'moves across those of the past, the latest first' },
  ];
</script>

<DataGrid
  label="Moves of announcements"
  heads={HEADS}
  {rows}
  keyOf={(row) => row.at + row.title}
  isDense
  isEdged
  testid="event-moves"
  none="No announcement ahead is held."
>
  {#snippet row(row)}
    <th class="cell max-w-48 truncate text-left! font-semibold" title={row.title}>{row.title}</th>
    <td class="cell text-left!"
      >{momentDay(row.at, zone)} {clockTime(new Date(row.at).toISOString(), zone).slice(0, 5)}</td
    >
    <td class="cell">{row.before ? shortDay(row.before) : 'now'} – {shortDay(row.after)}</td>
    <td class="cell font-semibold"
      ><Worked open={() => (bench.dialogs.work = eventWork(row))}
        >{row.move > 0 ? `± ${figures.percent(row.move, 2)}` : '–'}{row.shared > 1 ? ` of ${row.shared}` : ''}</Worked
      ></td
    >
    <td class="cell"
      ><Worked open={() => (bench.dialogs.work = eventWork(row))}>{figures.vol(row.ambientVol)}</Worked></td
    >
    <td class="cell"
      ><Worked open={() => (bench.dialogs.work = eventWork(row))}>{figures.vol(row.stretchVol)}</Worked></td
    >
    <td class="cell"
      >{row.past
        .slice(0, 4)
        .map(({ move }) => figures.percentChange(move, 1))
        .join(' · ') || '–'}</td
    >
  {/snippet}
</DataGrid>
<div class="flex-none p-2 pt-1"><Sentence {sentence} /></div>
