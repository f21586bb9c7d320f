<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import {
    deliveriesFigure,
    deliveriesMoving,
    deliveriesOf,
    deliveriesSentence,
    holdDeliveries,
    type Delivery,
  } from './charts/deliveries';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, loadSummaries, loadUniverse, momentIndex, useTheme, useWorkbench } from '$lib/state';

  const bench = useWorkbench();
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange(), days: new HeldRange() };

  const root = $derived(bench.market.underlying?.root ?? '');
  const siblings = $derived((bench.market.universe ?? []).filter((row) => row.root === root));

  const measuresAt = (asof: string | null, instant: number) => loadUniverse(asof).then((rows) => ({ rows, instant }));
  const now = new Loaded(() => {
    void bench.market.edition;
    // What plays has measures of all moments at hand.
    if (bench.playback.isPlaying) return undefined;
    const { asof } = bench.context;
    return measuresAt(asof, asof ? Date.parse(asof) : bench.moment.instant);
  });
  const then = new Loaded(() => {
    void bench.market.edition;
    const { ghost } = bench.context;
    return ghost ? measuresAt(ghost, Date.parse(ghost)) : null;
  });

  /** Measures of all moments of every delivery; loaded when it first plays. */
  const played = new Loaded(() => {
    void bench.market.edition;
    if (!bench.playback.isPlaying) return undefined;
    return Promise.all(
      siblings.map(async (row) => {
        const snapshots = await loadSummaries(row.symbol);
        return { row, snapshots, at: new Map(snapshots.map((one) => [one.asof, one])) };
      }),
    );
  });
  const past = $derived(played.value ?? []);
  const problem = $derived(now.problem ?? then.problem ?? played.problem);
  function deliveriesAt(asof: string): Delivery[] {
    const rows = past.map(({ row, snapshots, at }) => {
      // Most deliveries are held at the same moments; looking for the one before takes longer.
      const { price = null, iv30 = null } = at.get(asof) ?? snapshots[momentIndex(snapshots, asof)] ?? {};
      return { ...row, price, iv30 };
    });
    return deliveriesOf(rows, root, Date.parse(asof));
  }

  const still = $derived(now.value ? deliveriesOf(now.value.rows, root, now.value.instant) : []);
  const playing = $derived(bench.playback.frame && past.length > 0 ? deliveriesAt(bench.playback.frame.asof) : null);
  const deliveries = $derived(playing ?? still);
  const ghost = $derived(then.value ? deliveriesOf(then.value.rows, root, then.value.instant) : []);
  /** Another one whenever the axes were made to hold what plays. */
  const held = $derived.by(() => {
    const { played } = bench.playback;
    if (past.length > 0) {
      const all = played.flatMap(({ asof }) => deliveriesAt(asof));
      if (all.length > 0) holdDeliveries({ ranges, root }, all);
    }
    return {};
  });
  const figure = $derived.by(() => {
    void held;
    if (still.length === 0) return null;
    const { decimals } = bench.market;
    const symbol = bench.context.symbol ?? '';
    return deliveriesFigure({ deliveries: still, ghost, root, symbol, decimals, tokens: theme.tokens, ranges });
  });
  const moving = $derived(playing ? deliveriesMoving(playing, ghost, theme.tokens) : null);
</script>

{#if figure}
  <div class="flex justify-around px-3 text-[11px] text-soft"><span>price by days</span><span>iv30 by days</span></div>
  <div class="flex min-h-0 flex-1 px-2">
    <Chart
      {figure}
      {moving}
      name="deliveries"
      label="Deliveries of {root}"
      onchoose={([symbol]) => typeof symbol === 'string' && bench.address.choose(symbol)}
    />
  </div>
  <div class="p-2 pt-1"><Sentence sentence={deliveriesSentence(deliveries)} /></div>
{:else}
  <p class="m-auto p-3 text-soft">{problem ?? (now.value ? 'No delivery has a price at this moment.' : 'Loading …')}</p>
{/if}
