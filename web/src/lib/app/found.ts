import type { Command } from '$lib/state/view';

/** Results shown at most: nobody reads more, and another letter narrows them. */
const MOST_FOUND = 40;
const MOST_RECENT = 6;

/** How well a text matches a query: 0 not at all, 1 exactly. */
export type Score = (words: string, text: string) => number;

/** What is offered before anything is typed: what was done last, then views and actions. */
const AT_REST = ['view', 'action'] as const;

/**
 * Commands that match a query, the best match first.
 *
 * @param recent ids of what was done last, the latest first
 * @param score how well a text means some words, 0 to 1
 */
export function found(commands: readonly Command[], text: string, recent: readonly string[], score: Score): Command[] {
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
    .map((command) => ({ command, likely: likelihood(command, wanted, score) }))
    .filter(({ likely }) => likely > 0)
    .toSorted((a, b) => b.likely - a.likely || rankOf(a.command) - rankOf(b.command))
    .slice(0, MOST_FOUND)
    .map(({ command }) => command);
}

/** How well a query matches a command, 0 to 1: by its label first, then by its other names. */
function likelihood({ label, also, kind }: Command, wanted: string, score: Score): number {
  const byLabel = score(label, wanted);
  const byAll = score(`${label} ${also ?? ''} ${kind}`, wanted);
  return Math.max(byLabel, 0.9 * byAll);
}

/** Ids of what was done last, with one more. */
export function withRecent(recent: readonly string[], id: string): string[] {
  return [id, ...recent.filter((other) => other !== id)].slice(0, MOST_RECENT);
}
