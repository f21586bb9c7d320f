import { emptySide, type ExpiryFit } from '../chain';
import type { OptionId } from '../contracts';
import type { ListedSlice, MarketAround } from '../structures';
import { curveVol, naturalCurve } from '../surface';
import { MarketAt } from './market';

/** A market of one expiry for tests: an expiry with its curve, quoted around it where a half spread is given. */
export interface TestMarket {
  spot: number;
  years: number;
  /** Total variance at the forward, and the tilt of the curve. */
  theta: number;
  rho?: number;
  phi?: number;
  rate?: number;
  /** What leads from the price to the forward a year, beside cash. */
  drift?: number;
  around?: Partial<MarketAround>;
  exercise?: 'european' | 'american';
  kind?: MarketAround['on']['kind'];
  expiry?: string;
  strikes?: readonly number[];
  /** Of the mids over the curve, and half of the spread. */
  over?: number;
  halfSpread?: number;
}

/** A market as a book asks for it. */
export function testMarket(given: TestMarket): MarketAt {
  const { spot, years, theta, rho = -0.4, phi = 3, rate = 0.03, drift = 0.02 } = given;
  const { exercise = 'european', kind = 'equity', expiry = '2031-04-17', strikes = [80, 90, 100, 110, 120] } = given;
  const dividends = given.around?.dividends ?? [];
  const owed = dividends.reduce(
    (sum, { years: at, amount }) => (at > 0 && at < years ? sum + amount * Math.exp(-rate * at) : sum),
    0,
  );
  const forward = kind === 'future' ? spot : (spot - owed) * Math.exp(drift * years);
  const curve = naturalCurve({ theta, rho, phi }, years, forward);
  const fit = {
    ...{ expiry, settlement: 'pm', years, days: years * 365, forward, rate, discount: Math.exp(-rate * years), curve },
    ...{ atmVol: curveVol(curve, 0), sessions: Math.round(252 * years), aside: [], expiryAside: null },
  } as unknown as ExpiryFit;
  const slice: ListedSlice = {
    ...{ expiry, settlement: 'pm', fit, strike: Float64Array.from(strikes) },
    ...{ call: emptySide(strikes.length), put: emptySide(strikes.length) },
  };
  const around: MarketAround = { on: { kind, exercise, spot }, spot, dividends: [], events: [], ...given.around };
  const market = new MarketAt({ symbol: 'X', slices: [slice], around });
  if (given.halfSpread === undefined) return market;
  const quoted = (side: 'call' | 'put') => {
    const mids = strikes.map((strike) => market.mark(option(strike, side, expiry))!.theory + (given.over ?? 0));
    const column = (sign: number) => Float64Array.from(mids, (mid) => mid + sign * given.halfSpread!);
    return { ...emptySide(strikes.length), bid: column(-1), ask: column(1) };
  };
  return new MarketAt({
    ...{ symbol: 'X', around },
    slices: [{ ...slice, call: quoted('call'), put: quoted('put') }],
  });
}

/** An option of the test market. */
export const option = (strike: number, side: 'call' | 'put', expiry = '2031-04-17'): OptionId => ({
  ...{ symbol: 'X', expiry, settlement: 'pm', strike, side },
});
