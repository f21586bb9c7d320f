import { basisLevel, deviationMove, expiryName, type ExpiryId, type OptionId } from '@umwelt/core';
import { MOST_LEGS, namedExpiries, type Workbench } from '$lib/state';
import type { CellSettings } from '$lib/working/cells';
import { chainItems, type ChainItem } from './rows';
import { legValues, pickedStructure, structureWork, withLeg, type PickedStructure } from '$lib/structure';
import type { Work } from '$lib/working/lines';
import { metOn, type Met } from './target';

/** What the panels of the Chain share. */
export class ChainDesk {
  constructor(private readonly bench: Workbench) {}

  /** Names of the expiries that are unfolded. */
  readonly opened: ReadonlySet<string> = $derived.by(() => {
    const { shownSnapshot, context, focus } = this.bench;
    const { slices } = shownSnapshot ?? { slices: [] };
    return namedExpiries(slices, context.opened ?? (focus ? [expiryName(focus)] : []));
  });
  readonly items: readonly ChainItem[] = $derived.by(() => {
    const { shownSnapshot, context } = this.bench;
    if (!shownSnapshot) return [];
    const { slices } = shownSnapshot;
    return chainItems(slices, (i) => this.isOpen(slices[i]!), context.strikeRange, context.rangeSize);
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
      if (!this.isOpen(slice)) return [];
      const of = (side: 'call' | 'put') => metOn(slice, shown.values[i]!, side, targetKind, target / 100, targetWidth);
      return [of('call'), of('put')].filter((one) => one !== null);
    });
  });
  /** The picked legs as one; a sentence where one is not listed; null where none is picked. */
  readonly structure: PickedStructure | string | null = $derived.by(() => {
    const { shown, context } = this.bench;
    if (!shown || context.legs.length === 0) return null;
    return pickedStructure(shown.snapshot, shown.values, context.legs, (slice) =>
      this.bench.choiceAt(shown.basis, slice),
    );
  });

  /** How a number of the picked legs comes about; null where there are none. */
  structureWork(at: string): Work | null {
    const { shown } = this.bench;
    const { structure } = this;
    if (!shown || !structure || typeof structure === 'string') return null;
    const { snapshot, basis } = shown;
    const { legs, payoff, odds, slice, ...priced } = structure;
    const values = legs.map((leg) => legValues(shown.values[leg.slice]![leg.side], leg.index));
    const vol = slice ? basisLevel(this.bench.choiceAt(basis, legs[0]!.slice), slice.fit) : NaN;
    const move = slice ? deviationMove(slice.fit.forward, vol, slice.fit.years) : NaN;
    return structureWork({ basis, vol, move, snapshot, legs, values, priced, payoff, odds }, at);
  }

  isOpen(one: ExpiryId): boolean {
    return this.opened.has(expiryName(one));
  }

  /** Unfolds an expiry beside those that are. */
  open(one: ExpiryId): void {
    this.bench.context.opened = [...this.opened, expiryName(one)].sort();
  }

  /** Unfolds an expiry and puts the focus there, or folds it. */
  toggle({ expiry, settlement }: ExpiryId): void {
    const name = expiryName({ expiry, settlement });
    if (this.opened.has(name)) this.bench.context.opened = [...this.opened].filter((other) => other !== name);
    else {
      this.open({ expiry, settlement });
      this.bench.setFocus({ expiry, settlement });
    }
  }

  openAll(): void {
    this.bench.context.opened = this.bench.shown?.snapshot.slices.map(expiryName) ?? null;
  }

  /** Unfolds only the expiry in focus. */
  openOne(): void {
    this.bench.context.opened = null;
  }

  pick(contract: OptionId, quantity: number): void {
    this.bench.context.legs = withLeg(this.bench.context.legs, contract, quantity, MOST_LEGS);
  }
}
