import { basisLevel, deviationMove, expiryName, type ExpiryId, type OptionId, type Side } from '@umwelt/core';
import { MOST_LEGS, namedExpiries, type Workbench } from '$lib/state';
import type { CellSettings } from '$lib/working/cells';
import { chainItems, type ChainItem } from './rows';
import { legValues, pickedStructure, structureWork, withLeg, type PickedStructure } from '$lib/structure';
import type { Work } from '$lib/working/lines';
import { metOn, type Met } from './target';
import { PARAMS, type ChainParams } from './params';

/** What the panels of the Chain share. */
export class ChainDesk {
  private readonly params: ChainParams;
  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
  }

  /** Names of the expiries that are unfolded. */
  readonly opened: ReadonlySet<string> = $derived.by(() => {
    const { snapshot: shownSnapshot } = this.bench.snapshot;
    const { current: focus } = this.bench.focus;
    const { slices } = shownSnapshot ?? { slices: [] };
    return namedExpiries(slices, this.params.opened ?? (focus ? [expiryName(focus)] : []));
  });
  readonly items: readonly ChainItem[] = $derived.by(() => {
    const { snapshot: shownSnapshot } = this.bench.snapshot;
    if (!shownSnapshot) return [];
    const { slices } = shownSnapshot;
    return chainItems(slices, (i) => this.isOpen(slices[i]!), this.params.strikeRange, this.params.rangeSize);
  });
  /** What Greeks and money are multiplied by. */
  readonly times = $derived.by(() => {
    const { units, times } = this.params;
    const multiplier = this.bench.market.underlying?.multiplier ?? 1;
    return units === 'unit' ? 1 : units === 'contract' ? multiplier : multiplier * times;
  });
  readonly settings: CellSettings = $derived.by(() => ({
    columns: this.params.columns,
    quotes: this.bench.snapshot.shown?.quotes ?? 'mid',
    decimals: this.bench.market.decimals,
    times: this.times,
  }));
  /** The strikes that meet the odds that are asked for, by expiry; none of what is folded, or while nobody asks. */
  readonly met: readonly (readonly Met[])[] = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    if (!shown || !this.params.isTargeting) return [];
    const { targetKind, target, targetWidth } = this.params;
    return shown.snapshot.slices.map((slice, i) => {
      if (!this.isOpen(slice)) return [];
      const of = (side: Side) => metOn(slice, shown.values[i]!, side, targetKind, target / 100, targetWidth);
      return [of('call'), of('put')].filter((one) => one !== null);
    });
  });
  /** The picked legs as one; a sentence where one is not listed; null where none is picked. */
  readonly structure: PickedStructure | string | null = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { context } = this.bench;
    if (!shown || context.legs.length === 0) return null;
    return pickedStructure(shown.snapshot, shown.values, context.legs, (slice) =>
      this.bench.samples.choiceAt(shown.basis, slice),
    );
  });

  /** How a number of the picked legs comes about; null where there are none. */
  structureWork(at: string): Work | null {
    const { shown } = this.bench.snapshot;
    const { structure } = this;
    if (!shown || !structure || typeof structure === 'string') return null;
    const { snapshot, basis } = shown;
    const { legs, payoff, odds, slice, ...priced } = structure;
    const values = legs.map((leg) => legValues(shown.values[leg.slice]![leg.side], leg.index));
    const vol = slice ? basisLevel(this.bench.samples.choiceAt(basis, legs[0]!.slice), slice.fit) : NaN;
    const move = slice ? deviationMove(slice.fit.forward, vol, slice.fit.years) : NaN;
    return structureWork({ basis, vol, move, snapshot, legs, values, priced, payoff, odds }, at);
  }

  isOpen(one: ExpiryId): boolean {
    return this.opened.has(expiryName(one));
  }

  /** Unfolds an expiry beside those that are. */
  open(one: ExpiryId): void {
    this.params.opened = [...this.opened, expiryName(one)].sort();
  }

  /** Unfolds an expiry and puts the focus there, or folds it. */
  toggle({ expiry, settlement }: ExpiryId): void {
    const name = expiryName({ expiry, settlement });
    if (this.opened.has(name)) this.params.opened = [...this.opened].filter((other) => other !== name);
    else {
      this.open({ expiry, settlement });
      this.bench.focus.set({ expiry, settlement });
    }
  }

  openAll(): void {
    this.params.opened = this.bench.snapshot.shown?.snapshot.slices.map(expiryName) ?? null;
  }

  /** Unfolds only the expiry in focus. */
  openOne(): void {
    this.params.opened = null;
  }

  pick(contract: OptionId, quantity: number): void {
    this.bench.context.legs = withLeg(this.bench.context.legs, contract, quantity, MOST_LEGS);
  }
}
