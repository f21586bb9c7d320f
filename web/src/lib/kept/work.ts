import { number, signed, type Work } from '$lib/working/lines';
import { gainOf, type KeptStructure } from './structures';

/** What a kept structure is worth now, has gained, and is exposed to, for all of them. */
export function keptWork(row: KeptStructure, words: string, at: string): Work {
  const { symbol, quantity, mid, now } = row;
  if (!now || now.missing !== null) return { title: `${symbol} ${words}`, lines: [] };
  const { multiplier } = now;
  const known = (value: number | null | undefined) => value ?? NaN;
  const times = `${signed(quantity)}\\cdot${number(multiplier)}`;
  const exposures = (['delta', 'theta', 'vega'] as const).map((name) => ({
    key: name,
    words: `${name} of one, on the curve, times how many there are and the units of a contract`,
    tex: `${signed(known(now[name]))}\\cdot${times} = ${number(known(now[name]) * quantity * multiplier)}`,
  }));
  return {
    title: `${symbol} ${words}`,
    lines: [
      {
        key: 'value',
        words: `value of one on the curves of ${now.asof}; its legs, picked again, show theirs`,
        tex: `\\sum q V = ${number(known(now.value))}`,
      },
      {
        key: 'mid',
        words: 'bought at the ask and sold at the bid, at the middle, and the other way',
        tex: `${number(known(now.worst))},\\quad ${number(known(now.mid))},\\quad ${number(known(now.best))}`,
      },
      {
        key: 'gain',
        words: 'its mid now less that at which it was kept, times how many there are and the units of a contract',
        tex: `(${number(known(now.mid))} - ${signed(known(mid))})\\cdot${times} = ${number(gainOf(row))}`,
      },
      ...exposures,
    ],
    at,
  };
}
