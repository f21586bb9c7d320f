<script lang="ts">
  import { expiryName } from '@umwelt/core';
  import {
    ChainDesk,
    ChainTable,
    ColumnChoice,
    Drawer,
    DrawerBar,
    ExpiryChips,
    RangeChoice,
    StructureStrip,
    TargetLine,
    UnitChoice,
  } from '$lib/views/chain';
  import { offerTable } from '$lib/exports';
  import { chainSentence, figures, shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { listenForLegs } from '$lib/app';
  import { useWorkbench, useParams } from '$lib/state';
  import { chainTable } from '$lib/tables';
  import { PARAMS } from '$lib/views/chain/params';
  import { Toggles, Split } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const desk = new ChainDesk(bench);

  const shown = $derived(bench.snapshot.shown);
  const focusAt = $derived(bench.focus.current?.slice ?? -1);
  const slice = $derived(shown?.snapshot.slices[focusAt] ?? null);
  const values = $derived(shown?.values[focusAt] ?? null);
  const sentence = $derived.by(() => {
    if (!slice || !values || !shown) return null;
    const edges: number[] = [];
    const halves: number[] = [];
    for (const [quotes, side, vols] of [
      [slice.call, values.call, values.callVols],
      [slice.put, values.put, values.putVols],
    ] as const) {
      quotes.bid.forEach((bid, i) => {
        if (vols.reason[i] !== 0) return;
        edges.push(0.5 * (bid + quotes.ask[i]!) - side.theory[i]!);
        halves.push(0.5 * (quotes.ask[i]! - bid));
      });
    }
    return chainSentence(slice, edges, halves, shown.basis);
  });

  // An expiry that the keys bring the focus to is unfolded.
  $effect(() => {
    const { current: focus } = bench.focus;
    const { opened } = params;
    if (focus && opened && lastFocus !== expiryName(focus) && !desk.isOpen(focus)) desk.open(focus);
    lastFocus = focus ? expiryName(focus) : '';
  });
  let lastFocus = '';

  $effect(() =>
    listenForLegs((quantity) => {
      if (bench.focus.current) desk.pick(bench.focus.current, quantity);
    }),
  );

  offerTable(
    'chain-of-expiry',
    () => `Chain of ${bench.context.symbol}, ${slice ? shortExpiry(slice) : 'one expiry'}`,
    () => (shown && slice ? chainTable(shown.snapshot, shown.values, shown.basis, [focusAt]) : null),
  );
  offerTable(
    'chain',
    () => `Chain of ${bench.context.symbol}, all expiries`,
    () => (shown ? chainTable(shown.snapshot, shown.values, shown.basis, [...shown.snapshot.slices.keys()]) : null),
  );

  /** Raised when a structure was kept, so that the list shows it. */
  const timesWords = $derived(
    {
      unit: 'per unit',
      contract: `per contract of ${figures.count(desk.times)}`,
      position: `× ${figures.count(desk.times)}`,
    }[params.units],
  );
</script>

{#snippet chain()}
  <section class="panel flex-1" aria-label="Chain">
    <header class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 py-1.5">
      <h2 class="text-[15px] font-bold">Chain</h2>
      <span class="min-w-0 flex-1 truncate text-soft">
        theory on the <b class="text-ink">{shown?.basis ?? bench.context.basis}</b> basis, Greeks {timesWords}
      </span>
      <RangeChoice />
      <UnitChoice />
      <ColumnChoice />
      <Toggles
        label="Target"
        options={['target odds']}
        isOn={() => params.isTargeting}
        titles={() => 'strikes that meet odds of your own'}
        onchoose={() => (params.isTargeting = !params.isTargeting)}
      />
    </header>
    {#if shown && shown.snapshot.slices.length > 0}
      <ExpiryChips {desk} />
      {#if params.isTargeting}<TargetLine {desk} />{/if}
      <ChainTable {desk} />
      {#if bench.context.legs.length > 0}
        <StructureStrip {desk} onkept={() => (params.drawer = 'priced')} />
      {/if}
      {#if sentence && params.drawer === 'none'}<div class="border-t border-line p-2">
          <Sentence {sentence} />
        </div>{/if}
      <DrawerBar />
    {:else}
      <p class="m-auto text-center text-soft">
        {bench.problem ??
          (bench.market.current && bench.moment.index < 0 ? 'No chain is held at this moment.' : 'Loading …')}
      </p>
    {/if}
  </section>
{/snippet}
{#snippet drawer()}<Drawer />{/snippet}

<Split
  id="chain"
  direction="vertical"
  label="Height of the chain"
  size={66}
  least={[30, 15]}
  first={chain}
  second={shown && params.drawer !== 'none' ? drawer : null}
/>
