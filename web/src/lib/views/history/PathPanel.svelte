<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import { pathFigure } from './charts/history';
  import { standingSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import type { HistoryDesk } from './desk.svelte';
  import { firstOf, IMPLIED_LABELS, LOWER_LABELS } from './sessions';
  import { PARAMS } from './params';

  let { desk }: { desk: HistoryDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const ranges = { price: new HeldRange(), vol: new HeldRange(), lower: new HeldRange() };
  const DAY = 86_400_000;

  const figure = $derived.by(() => {
    const { sessions, lines, reach } = desk;
    const { current } = bench.market;
    if (!sessions || !lines || !reach || !current) return null;
    const from = firstOf(sessions, params.span, params.since);
    const { name, unit } = LOWER_LABELS[params.lower];
    const lastDay = current.history.at(-1)?.date ?? sessions.dates.at(-1)!;
    return pathFigure({
      dates: sessions.dates.slice(from),
      end: new Date(Date.parse(`${lastDay}T00:00:00Z`) + DAY).toISOString().slice(0, 10),
      close: [...sessions.close.subarray(from)],
      volume: [...sessions.optionVolume.subarray(from)],
      ...desk.pathLines(from),
      lower: {
        name: params.lower,
        label: name,
        unit,
        values: [...lines.lower.subarray(from)],
        isBars: params.lower === 'gap',
      },
      events: current.events,
      reach,
      key: `${current.symbol} ${params.implied.join()} ${params.estimators.join()} ${desk.window}`,
      tokens: theme.tokens,
      ranges,
    });
  });
  const sentence = $derived.by(() => {
    const first = desk.standings[0];
    const { lines, gaps } = desk;
    if (!first || !lines) return null;
    const [{ name, known }] = lines.historical as [(typeof lines.historical)[number]];
    const label = IMPLIED_LABELS[params.implied[0]!].replace(/^(\d+) days$/, '$1-day vol');
    return standingSentence(first.standing, label, { vol: known.at(-1) ?? NaN, name, gaps });
  });
</script>

<div class="flex min-h-0 flex-1 px-2">
  {#if figure}
    <Chart {figure} name="history" label="History of {bench.context.symbol}" />
  {:else}
    <p class="m-auto text-soft">
      {bench.problem ??
        (bench.market.current && bench.moment.index < 0 ? 'Nothing is held at this moment.' : 'Loading …')}
    </p>
  {/if}
</div>
<div class="h-[62px] flex-none overflow-hidden p-2">
  {#if sentence}<Sentence {sentence} />{/if}
</div>
