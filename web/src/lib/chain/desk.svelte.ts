import { basisLevel, deviationMove } from '@umwelt/core';
import { MOST_LEGS, type Contract, type Workbench } from '$lib/state';
import type { CellSettings } from './cells';
import { chainItems, type ChainItem } from './rows';
import { spreadOf, withLeg, type PickedSpread } from './spread';
import type { Work } from '$lib/working/lines';
import { metOn, type Met } from './target';
import { spreadWork } from './work';

/** What the panels of the Chain share. */
export class ChainDesk {
  constructor(private readonly bench: Workbench) {}

  /** Expiries that are unfolded. */
  readonly opened: readonly string[] = $derived.by(() => {
    const { opened } = this.bench.context;
    return opened ?? (this.bench.focus ? [this.bench.focus.expiry] : []);
  });
  readonly items: readonly ChainItem[] = $derived.by(() => {
    const { shownSnapshot, context } = this.bench;
    if (!shownSnapshot) return [];
    const { slices } = shownSnapshot;
    return chainItems(slices, (i) => this.opened.includes(slices[i]!.expiry), context.strikeRange, context.rangeSize);
  });
  /** What Greeks and money are multiplied by. */
  readonly times = $derived.by(() => {
    const { units, times } = this.bench.context;
    const multiplier = this.bench.underlying?.multiplier ?? 1;
    return units === 'unit' ? 1 : units === 'contract' ? multiplier : multiplier * times;
  });
  readonly settings: CellSettings = $derived.by(() => ({
    columns: this.bench.context.columns,
    quotes: this.bench.shown?.quotes ?? 'mid',
    decimals: this.bench.decimals,
    times: this.times,
  }));
  /** The strikes that meet the odds that are asked for, by expiry; none of what is folded, or while nobody asks. */
  readonly met: readonly (readonly Met[])[] = $derived.by(() => {
    const { shown, context } = this.bench;
    if (!shown || !context.isTargeting) return [];
    const { targetKind, target, targetWidth } = context;
    return shown.snapshot.slices.map((slice, i) => {
      if (!this.opened.includes(slice.expiry)) return [];
      const of = (side: 'call' | 'put') => metOn(slice, shown.values[i]!, side, targetKind, target / 100, targetWidth);
      return [of('call'), of('put')].filter((one) => one !== null);
    });
  });
  /** The picked legs as one; a sentence where one is not listed; null where none is picked. */
  readonly spread: PickedSpread | string | null = $derived.by(() => {
    const { shown, context } = this.bench;
    if (!shown || context.legs.length === 0) return null;
    return spreadOf(shown.snapshot, shown.values, context.legs, (slice) => this.bench.choiceAt(shown.basis, slice));
  });

  /** How a number of the picked legs comes about; null where there are none. */
  spreadWork(at: string): Work | null {
    const { shown } = this.bench;
    const { spread } = this;
    if (!shown || !spread || typeof spread === 'string') return null;
    const { snapshot, basis } = shown;
    const { legs, payoff, odds, slice, ...priced } = spread;
    const values = legs.map((leg) => shown.values[leg.slice]![leg.side]);
    const vol = slice ? basisLevel(this.bench.choiceAt(basis, legs[0]!.slice), slice.fit) : NaN;
    const move = slice ? deviationMove(slice.fit.forward, vol, slice.fit.years) : NaN;
    return spreadWork({ basis, vol, move, snapshot, legs, values, priced, payoff, odds }, at);
  }

  /** Unfolds an expiry and puts the focus there, or folds it. */
  toggle(expiry: string): void {
    const { bench } = this;
    if (this.opened.includes(expiry)) bench.context.opened = [...this.opened].filter((other) => other !== expiry);
    else {
      bench.context.opened = [...this.opened, expiry].sort();
      bench.setFocus({ expiry });
    }
  }

  openAll(): void {
    this.bench.context.opened = this.bench.shown?.snapshot.slices.map(({ expiry }) => expiry) ?? null;
  }

  /** Unfolds only the expiry in focus. */
  openOne(): void {
    this.bench.context.opened = null;
  }

  pick(contract: Contract, quantity: number): void {
    this.bench.context.legs = withLeg(this.bench.context.legs, contract, quantity, MOST_LEGS);
  }
}
