/** A year of a strangle hedged at each session: European, and with early exercise. */
import { contractPrice, hedgedHistory, type HedgedPast } from '../src';
import { measure } from './measure';

const SESSIONS = 252;
const ROUNDS = 7;
const DAY_MS = 86_400_000;
const STRIKES = [
  { sign: 1, strike: 105 },
  { sign: -1, strike: 95 },
];

/** Each round begins with other numbers: what was solved before is of no use to it. */
function pastOf(exercise: 'european' | 'american', round: number): HedgedPast {
  const column = (at: (i: number) => number) => Float64Array.from({ length: SESSIONS }, (_, i) => at(i));
  const years = column((i) => 1.1 - i / SESSIONS);
  const rate = 0.04 + 1e-5 * round;
  const price = column((i) => 100 + 4 * Math.sin(i / 9));
  const forward = column((i) => price[i]! * Math.exp((rate - 0.015) * years[i]!));
  const vol = column((i) => 0.2 + 0.02 * Math.sin(i / 17));
  const model = exercise === 'american' ? ('american' as const) : ('black-scholes-merton' as const);
  return {
    on: { kind: 'equity', exercise },
    instant: column((i) => i * DAY_MS),
    session: Int32Array.from({ length: SESSIONS }, (_, i) => i),
    ...{ price, paid: column(() => 0), forecast: column(() => 0.2), held: 0 },
    legs: STRIKES.map(({ sign, strike }) => {
      const side = sign > 0 ? ('call' as const) : ('put' as const);
      const mid = column((i) =>
        contractPrice(
          { model, side, spot: price[i]!, strike, years: years[i]!, rate, yield: 0.015, vol: vol[i]! },
          'fast',
        ),
      );
      const quotes = { bid: mid.map((value) => value * 0.995), ask: mid.map((value) => value * 1.005) };
      const terms = { sign, strike, years, forward, rate: column(() => rate), atmVol: vol, curveVol: vol };
      return { quantity: -1, contract: { ...terms, ...quotes } };
    }),
  };
}

for (const exercise of ['european', 'american'] as const) {
  const pasts = Array.from({ length: ROUNDS }, (_, round) => pastOf(exercise, round));
  let round = 0;
  let gained = 0;
  measure(
    `hedged_year_${exercise}`,
    1,
    ROUNDS,
    () => {
      const past = pasts[round++ % ROUNDS]!;
      gained = hedgedHistory(past, { when: 'session', by: 'own', worth: 'mid', cost: 0, slippage: 0 })!.steps.at(
        -1,
      )!.profit;
    },
    () => gained,
  );
}
