import { calendarById } from '@umwelt/core';
import { loadMarket, loadUniverse } from '$lib/data/api';
import { Loaded } from '$lib/data/loaded.svelte';
import { barsOf } from '$lib/data/measures';
import { decimalsOf } from '$lib/formats/figures';
import type { Address } from './address.svelte';

/** What is held: the underlyings, and everything of the one in view that does not depend on the moment. */
export class MarketStore {
  /** Raised when the data have changed, so that everything is reloaded; what loads for itself depends on it. */
  edition = $state(0);
  private readonly rows = new Loaded(() => {
    void this.edition;
    return loadUniverse(null);
  });
  readonly universe = $derived(this.rows.value);
  readonly underlying = $derived.by(
    () => this.universe?.find((row) => row.symbol === this.address.context.symbol) ?? null,
  );
  private readonly loaded = new Loaded(() => {
    void this.edition;
    const symbol = this.underlying?.symbol;
    return symbol ? loadMarket(symbol) : undefined;
  });
  /** Markets of another symbol are of no use while the new one loads. */
  readonly current = $derived.by(() => {
    const { value } = this.loaded;
    return value?.symbol === this.address.context.symbol ? value : null;
  });
  /** Decimals that prices are written with: those of the tick, two at least. */
  readonly decimals = $derived(Math.max(2, decimalsOf(this.underlying?.tick)));
  readonly calendar = $derived(calendarById(this.underlying?.calendar));
  /** Bars without the steps of dividends and splits, whichever moment is in view. */
  readonly bars = $derived(this.current ? barsOf(this.current.history, this.current.events) : null);
  readonly problem = $derived(this.rows.problem ?? this.loaded.problem);

  constructor(private readonly address: Address) {
    // Whatever an address says, and whenever it comes, something that is held is in view.
    $effect(() => {
      const { universe, underlying } = this;
      const usual = universe?.find((row) => row.kind === 'index') ?? universe?.[0];
      if (usual && !underlying) this.address.context.symbol = usual.symbol;
    });
  }
}
