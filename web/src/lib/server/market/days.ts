import { dayOf, type Calendar } from '@umwelt/core';

export const DAY_MS = 86_400_000;

/** The answers of a function of numbers, of which there are few, are remembered. */
function remembered<T>(work: (value: number) => T): (value: number) => T {
  const known = new Map<number, T>();
  let last: { value: number; answer: T } | undefined;
  return (value) => {
    // Consecutive calls usually ask for the same value.
    if (last?.value === value) return last.answer;
    let answer = known.get(value);
    if (answer === undefined) known.set(value, (answer = work(value)));
    last = { value, answer };
    return answer;
  };
}

/** A day since 1970 as an ISO date. */
export const isoDay = remembered((day) => new Date(day * DAY_MS).toISOString().slice(0, 10));
/** An instant as an ISO moment. */
export const isoMoment = remembered((instant) => new Date(instant).toISOString());

const DAYS = new Map<string, (instant: number) => number>();

/** The day of an instant on its exchange, since 1970. */
export function dayNumber(calendar: Calendar, instant: number): number {
  let days = DAYS.get(calendar.zone);
  if (!days) DAYS.set(calendar.zone, (days = remembered((at) => Date.parse(dayOf(calendar, at)) / DAY_MS)));
  return days(instant);
}
