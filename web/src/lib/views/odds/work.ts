import type {
  ExpectedStep,
  ExpiryFit,
  FutureOdds,
  HedgePoint,
  MaxPain,
  MoveMeasure,
  OpenStrike,
  Zone,
  OptionId,
} from '@umwelt/core';
import { figures, shortDay, shortExpiry, zoneWords } from '$lib/formats';
import { number, signed, type Work } from '$lib/working/lines';
import type { NamedLaw } from './laws';

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
    title: `${zoneWords(zone, decimals)} on ${shortExpiry(fit)}, by ${used.name}`,
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
  { basis, ...contract }: OptionId & { basis: string },
): Work {
  const target = mid * (1 + share);
  const isUp = share > 0;
  // A call gains over the price that it depends on, a put under it.
  const isOver = (contract.side === 'call') === isUp;
  return {
    title: `${shortExpiry(contract)} ${figures.strike(contract.strike)} ${contract.side} ${isUp ? 'up' : 'down'} ${figures.fixed(Math.abs(100 * share), 0)} % by ${shortDay(day)}`,
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

/** What became of an expected move. */
export function stepWork({ from, to, expiry, price, move, close, times }: ExpectedStep, measure: MoveMeasure): Work {
  const isOver = Number.isFinite(close);
  return {
    title: `expected move of ${shortDay(from)} to ${shortDay(to)}`,
    lines: [
      { words: `price at the end of ${shortDay(from)}`, tex: `S_0 = ${number(price)}` },
      {
        words: `${measure} of ${shortDay(expiry)} then${expiry === to ? '' : ', scaled by the root of the sessions'}`,
        tex: `m = ${number(move)},\\quad S_0 \\mp m = ${number(price - move)}\\;\\dots\\;${number(price + move)}`,
      },
      {
        words: isOver ? `close of ${shortDay(to)}` : 'the price now, as it is not over',
        tex: `\\frac{S_1 - S_0}{m} = \\frac{${number(isOver ? close : price + times * move)} - ${number(price)}}{${number(move)}} = ${number(times, 6)}`,
      },
    ],
  };
}

/** How often moves stayed inside, against a fair one. */
export function insideWork(
  { label, count, inside }: { label: string; count: number; inside: number },
  measure: MoveMeasure,
  fair: number,
): Work {
  return {
    title: `moves with ${label} sessions left`,
    lines: [
      {
        words: 'of every expiry at the end of every session that is held, those that ended within their expected move',
        tex: `\\frac{${inside}}{${count}} = ${number(inside / count, 6)}`,
      },
      {
        words:
          measure === 'straddle'
            ? 'a normal law ends within its mean absolute move, √(2/π) deviations, so often'
            : 'a normal law ends within one deviation so often',
        tex: `${measure === 'straddle' ? '2N(\\sqrt{2/\\pi}) - 1' : '2N(1) - 1'} = ${number(fair, 6)}`,
      },
      { words: 'inside, less that', tex: number(inside / count - fair, 6) },
    ],
  };
}

/** What a day does to a contract, and what makes it good. */
export function dayWork(
  { now, tomorrow, recovery, move }: { now: number; tomorrow: number; recovery: number; move: number },
  { day, years }: { day: string; years: number },
  { theta, delta, mid }: { theta: number; delta: number; mid: number },
  { basis, ...contract }: OptionId & { basis: string },
): Work {
  return {
    title: `${shortExpiry(contract)} ${figures.strike(contract.strike)} ${contract.side} by ${shortDay(day)}`,
    lines: [
      { words: `worth now, on the vol of the ${basis} basis`, tex: `V(S, 0) = ${number(now)}` },
      { words: `at that close, the price and the vol held`, tex: `V(S, ${number(years, 6)}) = ${number(tomorrow)}` },
      {
        words: 'the move of the underlying until then that keeps what it is worth now',
        tex: `V(S + x, t) = V(S, 0) \\;\\Rightarrow\\; x = ${number(move)},\\quad -\\Theta/\\Delta = ${number(-theta / delta)}`,
      },
      {
        words: `odds that it is worth its mid then, by the law of the ${basis} basis`,
        tex: `P(V(S_t, t) \\ge ${number(mid)}) = ${number(recovery)}`,
      },
    ],
  };
}

/** What open contracts are worth where they are worth least. */
export function painWork(strikes: readonly OpenStrike[], { strike, curve }: MaxPain, multiplier: number): Work {
  const point = curve.find(({ price }) => price === strike);
  const over = strikes.filter((one) => one.strike < strike && one.callOpenInterest > 0).length;
  const under = strikes.filter((one) => one.strike > strike && one.putOpenInterest > 0).length;
  return {
    title: `open contracts settled at ${figures.strike(strike)}`,
    lines: [
      {
        words: `${figures.counted(over, 'strike')} with calls in the money, × ${figures.count(multiplier)}`,
        tex: `\\sum_{K<P} (P - K)\\,OI_c = ${number(point?.callValue ?? NaN)}`,
      },
      {
        words: `${figures.counted(under, 'strike')} with puts in the money`,
        tex: `\\sum_{K>P} (K - P)\\,OI_p = ${number(point?.putValue ?? NaN)}`,
      },
      { words: 'no listed strike gives less', tex: `${number(point?.total ?? NaN)}` },
    ],
  };
}

/**
 * What is held against a sold straddle at a price.
 *
 * @param nearer what is held at the rung nearer to the price, where the trade from it is asked for
 */
export function hedgeWork(
  strike: number,
  { price, delta, gamma, value }: HedgePoint,
  basis: string,
  nearer?: number,
): Work {
  return {
    title: `hedge of the sold ${figures.strike(strike)} straddle at ${figures.significant(price, 6)}`,
    lines: [
      { words: `call and put at that price, their vols on the ${basis} basis held`, tex: `C + P = ${number(value)}` },
      { words: 'delta of both, sold', tex: `-(\\Delta_c + \\Delta_p) = ${number(delta)}` },
      { words: 'units of the underlying held against it', tex: `${number(-delta)}` },
      { words: 'by how much they change for a unit of price', tex: `\\Gamma_c + \\Gamma_p = ${number(-gamma)}` },
      ...(nearer === undefined
        ? []
        : [
            {
              words: 'traded on the way from the rung that is nearer to the price',
              tex: `${number(-delta)} - ${signed(nearer)} = ${number(-delta - nearer)}`,
            },
          ]),
    ],
  };
}
