import { expiryName, suggestHedges, type NamedLeg } from '@umwelt/core';
import type { LoadedSnapshot } from '$lib/data';
import { figures, shortExpiry } from '$lib/formats';
import { MOST_LEGS, type Workbench } from '$lib/state';
import { notify } from '$lib/ui';
import { expiryOf, PARAMS, type Target } from './params';
import { idOf } from './plan';

/** Contracts that are suggested at a moment: near the forward, tight, near in time and far, and of the expiries that are named. */
export function suggestedOf({ symbol, slices }: LoadedSnapshot, names: readonly string[]): NamedLeg[] {
  const places = names.map((name) => slices.findIndex((slice) => expiryName(slice) === name));
  return suggestHedges(slices, places).map(({ slice, index, side }) => {
    const { expiry, settlement, strike } = slices[slice]!;
    return { symbol, expiry, settlement, strike: strike[index]!, side, quantity: 1 };
  });
}

/** Expiries whose vega alone is brought to a number. */
export const expiriesOf = (wanted: readonly Target[]): string[] => wanted.flatMap((target) => expiryOf(target) ?? []);

/** Offers the contract in focus beside those that are suggested; null where none is, or where it is offered already. */
export function offerFocus(bench: Workbench): NamedLeg | null {
  const { current } = bench.focus;
  const { snapshot } = bench.snapshot;
  if (!current || !snapshot) return null;
  const { expiry, settlement } = snapshot.slices[current.slice]!;
  const { strike, side } = current;
  const leg = { symbol: snapshot.symbol, expiry, settlement, strike, side, quantity: 1 };
  const params = bench.address.of(PARAMS);
  if ([...params.added, ...suggestedOf(snapshot, expiriesOf(params.wanted))].some((one) => idOf(one) === idOf(leg)))
    return null;
  params.added = [...params.added, leg].slice(-MOST_LEGS);
  return leg;
}

/** {@link offerFocus} from whatever view, and says what came of it. */
export function offerByKey(bench: Workbench): void {
  const { current } = bench.focus;
  if (!current) return;
  const leg = offerFocus(bench);
  notify(
    leg
      ? `${shortExpiry(leg)} ${figures.strike(leg.strike)} ${leg.side} is offered in Hedge`
      : 'It is offered in Hedge already',
  );
}
