<script lang="ts">
  import {
    constantMaturityVol,
    dayOf,
    MOVE_MEASURES,
    nextSession,
    previousSession,
    STEP_KINDS,
    yearsBetween,
    sessionClose,
  } from '@umwelt/core';
  import { Chart, depthColor } from '$lib/charts';
  import { priceMovesFigure, sessionMovesFigure, type Candle } from './charts/price-moves';
  import { timedEvents } from '$lib/data/events';
  import { clockTime, figures, shortDay, type Sentence as SentenceText } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, useTheme, useWorkbench, valueOf, useParams } from '$lib/state';
  import type { OddsDesk } from './desk.svelte';
  import { barsBetween, loadInside, type IntradayBar } from './moves';
  import { insideSentence } from './words';
  import { PARAMS } from './params';
  import { Toggles } from '$lib/ui';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const PAST = { day: 45, week: 85, expiry: 85 } as const;
  const LEAST_AHEAD = 10;
  const MOST_AHEAD = 130;

  let isInside = $state(false);

  const shown = $derived(bench.snapshot.shown);
  const decimals = $derived(bench.market.decimals);
  const now = $derived(desk.now);

  /** Sessions ahead, as far as the expiry in focus and a little more. */
  const ahead = $derived.by(() => {
    const days: string[] = [];
    if (!now.day || !desk.slice) return days;
    const { calendar } = bench.market;
    const until = desk.slice.expiry;
    let day = nextSession(calendar, now.day);
    while (days.length < MOST_AHEAD && (day <= until || days.length < LEAST_AHEAD)) {
      days.push(day);
      day = nextSession(calendar, day);
    }
    for (let i = 0; i < 3; i++) {
      days.push(day);
      day = nextSession(calendar, day);
    }
    return days;
  });

  const term = $derived(
    bench.snapshot.quoted
      .filter(({ atmVol, years, expiryAside }) => atmVol > 0 && years > 0 && !expiryAside)
      .map(({ years, atmVol }) => ({ years, vol: atmVol })),
  );
  const cone = $derived([
    0,
    ...ahead.map((day) => {
      const years = Math.max(0, yearsBetween(bench.moment.instant, sessionClose(bench.market.calendar, day)));
      return constantMaturityVol(term, years) * Math.sqrt(years);
    }),
  ]);

  const candles = $derived.by((): Candle[] => {
    const { current } = bench.market;
    const { lastBar } = bench.moment;
    if (!current) return [];
    const rows = current.history.slice(0, lastBar + 1).filter((row) => row.close !== null);
    const first = rows.length - PAST[params.stepKind];
    return rows.slice(Math.max(0, first)).map((row) => {
      const factor = desk.splits(row.date);
      const of = (name: string) => valueOf(row, name) / factor;
      return { day: row.date, open: of('open'), high: of('high'), low: of('low'), close: of('close') };
    });
  });
  const steps = $derived(desk.history?.steps.filter(({ from }) => from >= (candles[0]?.day ?? '')) ?? []);
  const events = $derived.by(() => {
    const { current, calendar } = bench.market;
    const { instant } = bench.moment;
    const last = ahead.at(-1) ?? now.day;
    const first = candles[0]?.day ?? now.day;
    return timedEvents(current?.events ?? [], calendar).flatMap(({ at, title, kind }) => {
      const day = dayOf(calendar, at);
      const isMeant = !kind.startsWith('dividend') || at > instant;
      return isMeant && day >= first && day <= last ? [{ day, title }] : [];
    });
  });
  const chosen = $derived.by(() => {
    const { slice } = desk;
    if (!slice) return null;
    const straddle = desk.straddleOf(slice)?.move ?? NaN;
    const { deviationMove, days } = slice.fit;
    const move = params.moveMeasure === 'straddle' && straddle > 0 ? straddle : deviationMove;
    return move > 0 ? { expiry: slice.expiry, move, color: depthColor(days, theme.tokens) } : null;
  });

  /** Prices of the day in view at the moments that are held. */
  const held = $derived.by(() => {
    const { current, calendar } = bench.market;
    const { instant } = bench.moment;
    if (!current || !now.day) return [];
    return current.snapshots.flatMap(({ asof, price }) => {
      const at = Date.parse(asof);
      return price !== null && at <= instant && dayOf(calendar, at) === now.day ? [{ asof, price }] : [];
    });
  });
  // Where they cannot be loaded, the moments are what there is.
  const loaded = new Loaded<{ asof: string; bars: IntradayBar[] }>(() => {
    const { symbol } = bench.context;
    const asof = bench.moment.summary?.asof;
    void bench.market.edition;
    if (!symbol || !asof || bench.playback.isPlaying) return undefined;
    return loadInside(symbol, asof).then((bars) => ({ asof, bars }));
  });
  /** Bars inside the session: those that are held, else what lies between the moments. */
  const inside = $derived.by(() => {
    const { value } = loaded;
    const isIt = value?.asof === bench.moment.summary?.asof && value && value.bars.length > 0;
    return isIt ? value.bars : barsBetween(held);
  });
  const canLookInside = $derived(inside.length > 2);
  const session = $derived.by(() => {
    if (!canLookInside) return null;
    const { calendar } = bench.market;
    const before = previousSession(calendar, now.day);
    const base = candles.findLast(({ day }) => day < now.day)?.close ?? NaN;
    // What the close before expected of one session.
    const known = desk.moveOfDay(before);
    return {
      base,
      move: known,
      open: inside[0]!.open,
      bars: inside.map(({ time, ...bar }) => ({ ...bar, time: clockTime(time, calendar.zone).slice(0, 5) })),
    };
  });
  const isLooking = $derived(isInside && session !== null);

  const figure = $derived.by(() => {
    const { tokens } = theme;
    if (isLooking && session) return sessionMovesFigure({ ...session, decimals, tokens });
    if (!shown || !now.day || !(now.price > 0)) return null;
    return priceMovesFigure({ candles, ahead, now, cone, steps, chosen, events, decimals, tokens });
  });
  const sentence = $derived.by((): SentenceText | null => {
    if (isLooking && session) {
      const { open, base, move } = session;
      const [fromOpen, fromClose] = [now.price - open, now.price - base];
      return {
        lead: `Open to now ${figures.signed(fromOpen, decimals)}: ${figures.fixed(Math.abs(fromOpen) / move, 1)} of what the last close expected of the day,`,
        rest: `${figures.plusMinus(move, decimals)} by its ${params.moveMeasure}. From that close it is ${figures.signed(fromClose, decimals)}, ${figures.fixed(Math.abs(fromClose) / move, 1)} of it.`,
      };
    }
    const { history } = desk;
    if (candles.length === 0)
      return {
        lead: 'No bars are held:',
        rest: 'what was expected before, and what became of it, cannot be drawn. The cone ahead is by the curve.',
      };
    if (!history) return null;
    const { stepKind, moveMeasure } = params;
    return insideSentence(
      history.count,
      stepKind,
      moveMeasure,
      history.steps.find(({ outcome }) => outcome === 'open'),
    );
  });
  /** The step that stands for looking inside the session. */
  const INSIDE = '15 min';
</script>

<section class="panel min-h-0 flex-1" aria-label="Expected moves on the price">
  <header class="flex items-center gap-2 px-3 pt-2 pb-0.5">
    <h2 class="text-[15px] font-bold whitespace-nowrap">Expected moves on the price</h2>
    <span class="min-w-0 flex-1 truncate text-soft"
      >{isLooking
        ? `a quarter of an hour each, ${shortDay(now.day)}`
        : `${params.moveMeasure} then, cone by the curve now, around the price`}</span
    >
    <Toggles label="Move" options={MOVE_MEASURES} bind:value={params.moveMeasure} />
    <Toggles
      label="Steps of"
      options={[...STEP_KINDS, INSIDE] as const}
      isOn={(kind) => (kind === INSIDE ? isLooking : !isLooking && params.stepKind === kind)}
      isDisabled={(kind) => kind === INSIDE && !canLookInside}
      titles={(kind) =>
        kind !== INSIDE ? undefined : canLookInside ? 'inside the session' : 'no moments inside this session are held'}
      onchoose={(kind) => {
        isInside = kind === INSIDE;
        if (kind !== INSIDE) params.stepKind = kind;
      }}
    />
  </header>
  {#if figure}
    <div class="flex min-h-0 flex-1 px-1">
      <Chart {figure} name="expected-moves" label="Expected moves on the price" />
    </div>
    <div class="flex-none p-2 pt-1">
      {#if sentence}<Sentence {sentence} />{:else}<p class="m-0 text-soft">
          {desk.moves.problem ?? 'Following the moves of the past …'}
        </p>{/if}
    </div>
  {:else}
    <p class="m-auto text-center text-soft">
      {bench.problem ?? (shown ? 'No price is known at this moment.' : 'Loading …')}
    </p>
  {/if}
</section>
