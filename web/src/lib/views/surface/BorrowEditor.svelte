<script lang="ts">
  import {
    BORROW_MAPS,
    borrowedCurve,
    isArbitrageFree,
    lenderOf,
    PLAIN_BORROW,
    type Borrowing,
    type Curve,
    expiryName,
  } from '@umwelt/core';
  import { loadCurves, usedExpiries, type CurveExpiry } from '$lib/film';
  import { expiryAsideWords, shortExpiry, shortName } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench, problemOf } from '$lib/state';
  import { Refusal } from '$lib/api/call';
  import type { FittedSlice, ValuedSlice } from '$lib/data';
  import { borrowSentence, enclosedBy } from './borrow';

  let {
    slice,
    values,
    draft = $bindable(),
    onclose,
  }: { slice: FittedSlice; values: ValuedSlice; draft: Curve | null; onclose: () => void } = $props();

  const bench = useWorkbench();
  const fit = $derived(slice.fit);
  const MAP_NAMES = { forward: 'at % of forward', standardized: 'at deviations', price: 'by price' } as const;

  const relatives = $derived(
    (bench.market.universe ?? []).toSorted((a, b) => rankOf(a) - rankOf(b) || a.symbol.localeCompare(b.symbol)),
  );
  /** Relatives first, liquid ones before others. */
  function rankOf({ symbol, family, contracts }: { symbol: string; family: string | null; contracts: number | null }) {
    if (symbol === bench.context.symbol) return 1;
    return family !== null && family === bench.market.underlying?.family ? -(contracts ?? 0) : 0;
  }

  /** The choice being previewed: at first the stored one, else the most liquid relative. */
  let tried = $state<Borrowing>({ ...PLAIN_BORROW, source: '', sourceExpiry: null });
  let begunFor = '';
  $effect.pre(() => {
    const key = `${bench.context.symbol} ${slice.expiry} ${slice.settlement}`;
    if (begunFor === key || relatives.length === 0) return;
    begunFor = key;
    const source = relatives.find(({ symbol }) => symbol !== bench.context.symbol)!.symbol;
    tried = fit.borrowed ? plain(fit.borrowed) : { ...PLAIN_BORROW, source, sourceExpiry: null };
  });

  function plain({
    takenFrom: _taken,
    isArbitrageFree: _sound,
    version: _version,
    ...rest
  }: Borrowing & { takenFrom: string; isArbitrageFree: boolean }): Borrowing {
    return rest;
  }

  let lenders = $state.raw<CurveExpiry[]>([]);
  let problem = $state<string | null>(null);
  $effect(() => {
    const { source } = tried;
    const asof = bench.snapshot.shown?.snapshot.asof;
    if (!source || !asof) return;
    void bench.market.edition;
    const stop = new AbortController();
    const WEEK = 7 * 86_400_000;
    const from = new Date(Date.parse(asof) - WEEK).toISOString();
    loadCurves(source, from, asof, 'moment', { isOwn: true }, stop.signal).then(
      (frames) => {
        lenders = frames.at(-1)?.expiries ?? [];
        problem = null;
      },
      (error: Error) => {
        if (!stop.signal.aborted) problem = error.message;
      },
    );
    return () => stop.abort();
  });

  const able = $derived(usedExpiries({ expiries: lenders }));
  const lender = $derived(lenderOf(lenders, fit.years, tried));
  const curve = $derived(
    lender?.curve && fit.forward > 0 && !(tried.map === 'price' && tried.ratio !== null && !(tried.ratio > 0))
      ? borrowedCurve(lender.curve, fit, tried)
      : null,
  );
  $effect(() => {
    draft = curve;
  });
  $effect(() => () => (draft = null));

  /** The own curve is hidden where one is borrowed: then there is nothing to compare with. */
  const own = $derived(fit.curve && !fit.borrowed ? enclosedBy(slice, values, fit.curve) : null);
  const sentence = $derived(
    borrowSentence(
      tried,
      lender && expiryName(lender),
      curve && enclosedBy(slice, values, curve),
      own,
      curve === null || isArbitrageFree(curve),
    ),
  );

  let isBusy = $state(false);
  /** What was there before the last change. */
  let before = $state.raw<{ borrowing: Borrowing | null } | null>(null);

  async function set(borrowing: Borrowing | null, isUndo = false): Promise<void> {
    isBusy = true;
    const held = fit.borrowed ? plain(fit.borrowed) : null;
    try {
      const version = fit.borrowed?.version ?? null;
      await bench.exclusions.borrow({ expiry: slice.expiry, settlement: slice.settlement, borrowing, version });
      before = isUndo ? null : { borrowing: held };
      problem = null;
    } catch (error) {
      problem = problemOf(error);
      if (error instanceof Refusal && error.current) {
        // The current state is shown; the user can make the change again.
        problem += ': it is shown now';
        bench.reload();
      }
    }
    isBusy = false;
  }
</script>

{#snippet field(
  label: string,
  title: string,
  value: number,
  scale: number,
  step: number,
  take: (value: number) => void,
)}
  <label class="flex items-center gap-1" {title}
    ><span class="text-soft">{label}</span>
    <input
      class="figures w-[58px] rounded-[5px] border border-line bg-panel px-1 text-right text-[11px]!"
      type="number"
      {step}
      value={Math.round(scale * value * 1e6) / 1e6}
      oninput={(event) => {
        const typed = event.currentTarget.valueAsNumber;
        if (Number.isFinite(typed)) take(typed / scale);
      }}
    />
  </label>
{/snippet}

<div class="mx-3 mb-1 rounded border border-line bg-page p-1.5 text-[11.5px]" role="group" aria-label="Borrow a curve">
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1">
    <span class="text-soft">{shortExpiry(slice)} borrows from</span>
    <select class="choice" aria-label="Lender" bind:value={tried.source}>
      {#each relatives as { symbol } (symbol)}<option value={symbol}>{symbol}</option>{/each}
    </select>
    <select
      class="choice"
      aria-label="Expiry that lends"
      value={tried.sourceExpiry ?? ''}
      onchange={(event) => (tried.sourceExpiry = event.currentTarget.value || null)}
    >
      <option value="">nearest in time</option>
      {#each able.map(expiryName) as name (name)}<option value={name}>{shortName(name)}</option>{/each}
      {#if tried.sourceExpiry && !able.some((one) => expiryName(one) === tried.sourceExpiry)}
        <option value={tried.sourceExpiry}>{shortName(tried.sourceExpiry)}</option>
      {/if}
    </select>
    <select class="choice" aria-label="How places are matched" bind:value={tried.map}>
      {#each BORROW_MAPS as map (map)}<option value={map}>{MAP_NAMES[map]}</option>{/each}
    </select>
    {#if tried.map === 'price'}
      {@render field(
        '× ',
        "the lender's price over this one's",
        tried.ratio ?? (lender ? lender.forward / fit.forward : 1),
        1,
        0.01,
        (value) => (tried.ratio = value > 0 ? value : null),
      )}
      {@render field('+', "offset in the lender's money", tried.offset, 1, 0.5, (value) => (tried.offset = value))}
    {/if}
    {@render field(
      'shift',
      'points of vol, at every place',
      tried.volShift,
      100,
      0.1,
      (value) => (tried.volShift = value),
    )}
    {@render field(
      'slope',
      'points for a deviation over the forward',
      tried.slope,
      100,
      0.1,
      (value) => (tried.slope = value),
    )}
    {@render field(
      'curvature',
      'points for the square of a deviation',
      tried.curvature,
      100,
      0.1,
      (value) => (tried.curvature = value),
    )}
    <span class="flex-1"></span>
    <button
      class="btn btn-xs"
      disabled={!curve || isBusy || bench.moment.live !== null}
      onclick={() => set($state.snapshot(tried))}>keep</button
    >
    {#if fit.borrowed}<button class="btn btn-xs" disabled={isBusy} onclick={() => set(null)}>own curve</button>{/if}
    {#if before}<button class="btn btn-xs" disabled={isBusy} onclick={() => set(before!.borrowing, true)}>undo</button
      >{/if}
    <button class="cursor-pointer text-soft hover:text-ink" aria-label="Close" onclick={onclose}>×</button>
  </div>
  {#if problem}<p class="m-0 pt-1 text-loss" role="alert">{problem}</p>{/if}
  {#if fit.expiryAside}<p class="m-0 pt-1 text-loss">{expiryAsideWords(fit.expiryAside)}</p>{/if}
  <div class="pt-1"><Sentence {sentence} /></div>
</div>
