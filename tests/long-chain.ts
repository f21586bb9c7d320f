import { priceContract } from '@umwelt/core';

const STRIKES = Array.from({ length: 40 }, (_, i) => 80 + i);
const EXPIRIES = [30, 60, 120, 240];
/** Contracts of each snapshot. */
export const CONTRACTS = STRIKES.length * EXPIRIES.length * 2;

/** A chain file that takes a worker some seconds: a snapshot a day. */
export function longChain(symbol: string, sessions: number): string {
  const day = (n: number) => new Date(Date.UTC(2040, 0, 2) + n * 86_400_000).toISOString().slice(0, 10);
  const lines = EXPIRIES.flatMap((days) =>
    STRIKES.flatMap((strike) =>
      (['call', 'put'] as const).map((side) => {
        const contract = {
          model: 'black-76',
          side,
          forward: 100,
          strike,
          years: days / 365,
          rate: 0,
          vol: 0.25,
        } as const;
        const { price } = priceContract(contract);
        return {
          days,
          rest: `${strike},${side},${Math.max(0, price - 0.05).toFixed(2)},${(price + 0.05).toFixed(2)},100`,
        };
      }),
    ),
  );
  let text = 'asof,symbol,expiry,strike,side,bid,ask,underlying_price\n';
  for (let n = 0; n < sessions; n++) {
    for (const { days, rest } of lines) text += `${day(n)}T20:45:00Z,${symbol},${day(n + days)},${rest}\n`;
  }
  return text;
}
