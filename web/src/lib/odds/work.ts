import type { ExpiryFit, FutureOdds, StraddleUsed, Zone } from '@umwelt/core';
import { figures, shortDay } from '$lib/formats';
import { number, type Work } from '$lib/working/lines';
import type { NamedLaw } from './laws';
import { zoneWords } from './laws';

/** How the expected moves of an expiry come about. */
export function moveWork(fit: ExpiryFit, straddle: StraddleUsed | null): Work {
  const { forward, atmVol, years } = fit;
  const deviation = forward * atmVol * Math.sqrt(years);
  const parts = (straddle?.parts ?? []).map(({ strike, callMid, putMid, weight }) => ({
    words: `straddle at ${figures.strike(strike)}: mids of its call and put, weighted ${figures.percent(weight)}`,
    tex: `${number(callMid)} + ${number(putMid)} = ${number(callMid + putMid)}`,
  }));
  const sum = (straddle?.parts ?? [])
    .map(({ callMid, putMid, weight }) => `${number(weight, 6)}\\cdot${number(callMid + putMid)}`)
    .join(' + ');
  return {
    title: `expected moves of ${shortDay(fit.expiry)}`,
    lines: [
      { words: 'forward of the expiry', tex: `F = ${number(forward)}` },
      ...parts,
      ...(straddle
        ? [{ key: 'straddle', words: 'by the straddle', tex: `${sum} = ${number(straddle.move)}` }]
        : [{ key: 'straddle', words: 'by the straddle: no strike has both sides quoted', tex: '\\text{–}' }]),
      {
        key: 'deviation',
        words: 'one deviation on the vol at the forward',
        tex: `F\\,\\sigma\\sqrt T = ${number(forward)}\\cdot${number(atmVol)}\\cdot\\sqrt{${number(years, 7)}} = ${number(deviation)}`,
      },
      {
        key: 'ratio',
        words: 'common practice: 0.8; without skew √(2/π) and a little less',
        tex: `\\frac{${number(straddle?.move ?? NaN)}}{${number(deviation)}} = ${number((straddle?.move ?? NaN) / deviation, 5)}`,
      },
    ],
  };
}

/** How the odds of a zone come about under a law, and what the others say. */
export function zoneWork(
  zone: Zone,
  fit: ExpiryFit,
  used: NamedLaw,
  others: readonly { name: string; odds: number }[],
  decimals: number,
): Work {
  const { forward } = fit;
  const k = (level: number) =>
    `\\ln\\frac{${number(level, 7)}}{${number(forward, 7)}} = ${number(Math.log(level / forward), 6)}`;
  const ends = [zone.from, zone.to].filter((level): level is number => level !== null);
  const under = (level: number | null, edge: number) =>
    level === null ? edge : used.law!.under(level > 0 ? Math.log(level / forward) : -Infinity);
  const how =
    used.name === 'curve'
      ? 'P(k) = N(−d₂) + √T·n(d₂)·∂σ/∂k of the fitted curve'
      : used.name === 'past' || Number.isNaN(used.vol)
        ? 'P(k) is the share of past paths that end under it'
        : `P(k) = N(k/s + s/2) with s = σ√T, σ = ${figures.vol(used.vol, 2)} %`;
  return {
    title: `${zoneWords(zone, decimals)} on ${shortDay(fit.expiry)}, by ${used.name}`,
    lines: [
      ...ends.map((level) => ({
        words: `level ${figures.fixed(level, decimals)} against the forward`,
        tex: `k = ${k(level)}`,
      })),
      {
        words: how,
        tex: `P(${zone.to === null ? '\\infty' : number(zone.to, 7)}) - P(${zone.from === null ? '0' : number(zone.from, 7)}) = ${number(under(zone.to, 1))} - ${number(under(zone.from, 0))} = ${number(zone.probability)}`,
      },
    ],
    others: {
      heads: ['law', 'odds %'],
      rows: others.map(({ name, odds }) => [name, figures.fixed(100 * odds, 2)]),
    },
  };
}

/** How the odds that a contract gains or loses by a close come about. */
export function futureWork(
  { day, years }: { day: string; years: number },
  share: number,
  mid: number,
  { odds, price }: FutureOdds,
  { expiry, strike, side, basis }: { expiry: string; strike: number; side: 'call' | 'put'; basis: string },
): Work {
  const target = mid * (1 + share);
  const isUp = share > 0;
  // A call gains over the price that it hangs on, a put under it.
  const isOver = (side === 'call') === isUp;
  return {
    title: `${shortDay(expiry)} ${figures.strike(strike)} ${side} ${isUp ? 'up' : 'down'} ${figures.fixed(Math.abs(100 * share), 0)} % by ${shortDay(day)}`,
    lines: [
      {
        words: 'what it would be worth',
        tex: `V^* = ${number(mid)}\\cdot(1 ${share < 0 ? '-' : '+'} ${number(Math.abs(share))}) = ${number(target)}`,
      },
      {
        words: `time until that close, the vol of the contract on the ${basis} basis held`,
        tex: `t = ${number(years, 7)}`,
      },
      {
        words: 'price of the underlying at which it is worth that then',
        tex: Number.isFinite(price)
          ? `V(S^*, t) = V^* \\;\\Rightarrow\\; S^* = ${number(price)}`
          : 'S^*:\\ \\text{no price}',
      },
      {
        words: `odds that the price is ${isOver ? 'over' : 'under'} it then, by the law of the ${basis} basis at that time`,
        tex: `P(S_t ${isOver ? '>' : '<'} S^*) = ${number(odds)}`,
      },
    ],
  };
}

/** How the move of an announcement comes about. */
export function eventWork(event: {
  title: string;
  before: string | null;
  after: string;
  move: number;
  ambientVol: number;
  stretchVol: number;
  shared: number;
  stretchYears: number;
}): Work {
  const { title, before, after, move, ambientVol, stretchVol, shared, stretchYears } = event;
  const total = stretchVol ** 2 * stretchYears;
  const ambient = ambientVol ** 2 * stretchYears;
  return {
    title: `move of ${title}`,
    lines: [
      {
        words: `variance at the forward between ${before ? shortDay(before) : 'now'} and ${shortDay(after)}`,
        tex: `\\sigma_2^2T_2 - \\sigma_1^2T_1 = ${number(stretchVol)}^2\\cdot${number(stretchYears, 7)} = ${number(total)}`,
      },
      {
        words: 'what time alone carries of it, at the rate of the nearest stretches without an announcement',
        tex: `\\sigma_a^2\\,\\Delta T = ${number(ambientVol)}^2\\cdot${number(stretchYears, 7)} = ${number(ambient)}`,
      },
      {
        words:
          shared > 1 ? `the rest, shared by ${shared} announcements, as one deviation` : 'the rest as one deviation',
        tex: `\\sqrt{${shared > 1 ? `\\tfrac{1}{${shared}}` : ''}(${number(total)} - ${number(ambient)})} = ${number(move)}`,
      },
    ],
  };
}
