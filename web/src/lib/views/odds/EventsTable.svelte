<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { clockTime, figures, momentDay, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import Worked from '$lib/working/Worked.svelte';
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
</script>

<div class="min-h-0 flex-1 overflow-auto">
  <table class="dense w-full border-collapse" data-testid="event-moves">
    <thead>
      <tr>
        <th class="head-cell pl-3! text-left!">announcement</th>
        <th class="head-cell text-left!">when</th>
        <th class="head-cell" title="the last expiry before it, and the first after it">between</th>
        <th class="head-cell" title="one deviation of its own variance, in the price">move</th>
        <th class="head-cell" title="vol of the stretch without it">ambient</th>
        <th class="head-cell" title="vol of the stretch between the two expiries">stretch</th>
        <th class="head-cell pr-3!" title="moves across those of the past, the latest first">past moves</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as row (row.at + row.title)}
        <tr class="border-b border-line">
          <th class="cell max-w-48 truncate pl-3! text-left! font-semibold" title={row.title}>{row.title}</th>
          <td class="cell text-left!"
            >{momentDay(row.at, zone)} {clockTime(new Date(row.at).toISOString(), zone).slice(0, 5)}</td
          >
          <td class="cell">{row.before ? shortDay(row.before) : 'now'} – {shortDay(row.after)}</td>
          <td class="cell font-semibold"
            ><Worked open={() => (bench.dialogs.work = eventWork(row))}
              >{row.move > 0 ? `± ${figures.percent(row.move, 2)}` : '–'}{row.shared > 1
                ? ` of ${row.shared}`
                : ''}</Worked
            ></td
          >
          <td class="cell"
            ><Worked open={() => (bench.dialogs.work = eventWork(row))}>{figures.vol(row.ambientVol)}</Worked></td
          >
          <td class="cell"
            ><Worked open={() => (bench.dialogs.work = eventWork(row))}>{figures.vol(row.stretchVol)}</Worked></td
          >
          <td class="cell pr-3!"
            >{row.past
              .slice(0, 4)
              .map(({ move }) => figures.percentChange(move, 1))
              .join(' · ') || '–'}</td
          >
        </tr>
      {:else}
        <tr><td class="p-3 text-soft" colspan="7">No announcement ahead is held.</td></tr>
      {/each}
    </tbody>
  </table>
</div>
<div class="flex-none p-2 pt-1"><Sentence {sentence} /></div>
