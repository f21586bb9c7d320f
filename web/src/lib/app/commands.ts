import { BASES, dayOf, expiryName } from '@umwelt/core';
import { figures, longDay, shortExpiry } from '$lib/formats';
import type { Workbench } from '$lib/state';
import type { Command } from '$lib/state/view';
import type { Action } from './actions';
import { VIEWS } from './views';

/** What can be done by its name at this moment, without what has to be loaded. */
export function commandsAtHand(bench: Workbench, actions: readonly Action[]): Command[] {
  const { address, context, market, moment, snapshot, focus } = bench;
  const decimals = market.decimals;
  return [
    ...actions.flatMap(({ what, keys, run }): Command[] =>
      run
        ? [{ id: `action ${what}`, kind: what.startsWith('go to ') ? 'view' : 'action', label: what, keys, run }]
        : [],
    ),
    ...(market.universe ?? []).map((row): Command => ({
      id: `underlying ${row.symbol}`,
      kind: 'underlying',
      label: row.symbol,
      hint: row.name,
      also: row.name,
      run: () => address.choose(row.symbol),
    })),
    ...snapshot.expiries.map((one): Command => ({
      id: `expiry ${expiryName(one)}`,
      kind: 'expiry',
      label: shortExpiry(one),
      hint: `${figures.fixed(one.days, 1)} days, forward ${figures.fixed(one.forward, decimals)}`,
      also: expiryName(one),
      run: () => focus.set(one),
    })),
    ...moment.stops.map((stop): Command => {
      const asof = market.current!.snapshots[stop]!.asof;
      const day = dayOf(market.calendar, Date.parse(asof));
      return {
        ...{ id: `date ${day}`, kind: 'date', label: longDay(day), also: day },
        run: () => moment.goTo(stop),
      };
    }),
    ...BASES.map((basis): Command => ({
      ...{ id: `basis ${basis}`, kind: 'basis', label: `${basis} basis`, run: () => (context.basis = basis) },
    })),
  ];
}

/** What views give: kept screens, kept structures. What cannot be loaded is left out. */
export async function commandsOfViews(bench: Workbench, open: (view: string) => void): Promise<Command[]> {
  const asked = VIEWS.flatMap(({ commands }) => commands ?? []).map(async (load) => {
    const { commandsOf } = await load();
    return commandsOf(bench, open);
  });
  const answers = await Promise.allSettled(asked);
  return answers.flatMap((answer) => (answer.status === 'fulfilled' ? answer.value : []));
}
