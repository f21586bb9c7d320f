import { BASES, dayOf, expiryName } from '@umwelt/core';
import { computeCommandScore } from 'bits-ui';
import { figures, shortExpiry } from '$lib/formats';
import type { Workbench } from '$lib/state';
import type { Command } from '$lib/state/view';
import type { Action } from './actions';
import { VIEWS } from './views';

/** More than that nobody reads: another letter narrows it. */
const MOST_FOUND = 40;
const MOST_RECENT = 6;

const longDay = (day: string) =>
  new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' }).format(
    Date.parse(day),
  );

/** What can be done by its name at this moment, without what has to be loaded. */
export function commandsAtHand(bench: Workbench, actions: readonly Action[]): Command[] {
  const { context, market, moment, snapshot, focus } = bench;
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
      run: () => market.choose(row.symbol),
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

/** What is offered before anything is typed: what was done last, then views and actions. */
const AT_REST = ['view', 'action'] as const;

/**
 * Commands that a text is meant for, the likeliest first.
 *
 * @param recent ids of what was done last, the latest first
 */
export function found(commands: readonly Command[], text: string, recent: readonly string[]): Command[] {
  const wanted = text.trim();
  const rankOf = ({ id }: Command) => {
    const at = recent.indexOf(id);
    return at < 0 ? recent.length : at;
  };
  if (!wanted) {
    const lately = commands.filter(({ id }) => recent.includes(id)).toSorted((a, b) => rankOf(a) - rankOf(b));
    const rest = AT_REST.flatMap((kind) => commands.filter((one) => one.kind === kind && !recent.includes(one.id)));
    return [...lately, ...rest];
  }
  // A date is meant where a digit is typed.
  const hasDigit = /\d/.test(wanted);
  return commands
    .filter(({ kind }) => kind !== 'date' || hasDigit)
    .map((command) => ({ command, score: scoreOf(command, wanted) }))
    .filter(({ score }) => score > 0)
    .toSorted((a, b) => b.score - a.score || rankOf(a.command) - rankOf(b.command))
    .slice(0, MOST_FOUND)
    .map(({ command }) => command);
}

/** How likely a text means a command, 0 to 1: by its label first, then by what it is also known by. */
function scoreOf({ label, also, kind }: Command, wanted: string): number {
  const byLabel = computeCommandScore(label, wanted);
  const byAll = computeCommandScore(`${label} ${also ?? ''} ${kind}`, wanted);
  return Math.max(byLabel, 0.9 * byAll);
}

/** Ids of what was done last, with one more. */
export function withRecent(recent: readonly string[], id: string): string[] {
  return [id, ...recent.filter((other) => other !== id)].slice(0, MOST_RECENT);
}
