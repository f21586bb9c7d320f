import { contractOf } from './listing';
import type { Quote } from './quotes';

/** The book that is held in the demo. */
export const BOOK = 'Harbour';
/** In crowns for each contract that is traded. */
const FEE = 0.75;
/** How much of the half spread is paid, on average. */
const SLIPPAGE = 0.5;

/** A leg by its expiry, and by its strike as a share of the price. */
interface Wanted {
  expiry: string;
  side: 'C' | 'P';
  share: number;
  quantity: number;
}

/** What is traded at a moment of a session: new legs, after all that is held has been closed where that is said. */
interface Trade {
  position: string;
  symbol: string;
  day: string;
  /** The last of the session unless given. */
  quarter?: number;
  closes?: boolean;
  legs: Wanted[];
}

const legs = (expiry: string, ...terms: readonly (readonly ['C' | 'P', number, number])[]): Wanted[] =>
  terms.map(([side, share, quantity]) => ({ expiry, side, share, quantity }));

/** Eight positions over five families that are open at the end, and one that was over in a day. */
const TRADES: readonly Trade[] = [
  {
    ...{ position: 'MRX40 decision straddle', symbol: 'MRX40', day: '2030-12-19', quarter: 1 },
    legs: legs('2031-01-02', ['P', 1, -10], ['C', 1, -10]),
  },
  { position: 'MRX40 decision straddle', symbol: 'MRX40', day: '2030-12-19', closes: true, legs: [] },
  {
    ...{ position: 'CAIR sold strangle', symbol: 'CAIR', day: '2031-01-21' },
    legs: legs('2031-03-20', ['P', 0.93, -35], ['C', 1.06, -35]),
  },
  {
    ...{ position: 'MRX40 sold strangle', symbol: 'MRX40', day: '2031-02-10' },
    legs: legs('2031-04-17', ['P', 0.97, -12], ['C', 1.07, -12]),
  },
  {
    ...{ position: 'AQFM31 call vertical', symbol: 'AQFM31', day: '2031-02-12' },
    legs: legs('2031-04-17', ['C', 1.05, 25], ['C', 1.13, -25]),
  },
  {
    ...{ position: 'AURG iron condor', symbol: 'AURG', day: '2031-02-20' },
    legs: legs('2031-04-17', ['P', 0.87, 40], ['P', 0.94, -40], ['C', 1.07, -40], ['C', 1.14, 40]),
  },
  {
    ...{ position: 'MERI iron condor', symbol: 'MERI', day: '2031-02-24' },
    legs: legs('2031-04-17', ['P', 0.93, 15], ['P', 0.955, -15], ['C', 1.05, -15], ['C', 1.075, 15]),
  },
  {
    ...{ position: 'MXFM31 bought puts', symbol: 'MXFM31', day: '2031-02-26' },
    legs: legs('2031-04-17', ['P', 0.95, 3]),
  },
  {
    ...{ position: 'LMNQ bought straddle', symbol: 'LMNQ', day: '2031-02-27' },
    legs: legs('2031-03-27', ['P', 1, 30], ['C', 1, 30]),
  },
  {
    ...{ position: 'CAIR sold strangle', symbol: 'CAIR', day: '2031-03-05', closes: true },
    legs: legs('2031-04-17', ['P', 0.93, -35], ['C', 1.06, -35]),
  },
  {
    ...{ position: 'MRX40 put calendar', symbol: 'MRX40', day: '2031-03-06' },
    legs: [...legs('2031-03-27', ['P', 0.995, -20]), ...legs('2031-05-15', ['P', 0.995, 20])],
  },
  {
    ...{ position: 'MXFM31 bought puts', symbol: 'MXFM31', day: '2031-03-10' },
    legs: legs('2031-04-17', ['P', 0.95, 1]),
  },
];

/** A fill of the demo's book. */
export interface BookFill {
  position: string;
  /** Of whom it is. */
  quote: Quote;
  quantity: number;
  price: number;
  fee: number;
}

/** The one who trades an underlying for the book: he knows what he holds. */
export class Trader {
  private readonly held = new Map<string, Map<string, number>>();

  constructor(
    private readonly symbol: string,
    private readonly lastQuarter: number,
  ) {}

  /**
   * What is traded at a moment.
   *
   * @param price of the underlying
   * @param quotes that are meant, without faults
   */
  trades(day: string, quarter: number, price: number, quotes: readonly Quote[]): BookFill[] {
    const now = TRADES.filter(
      (trade) => trade.symbol === this.symbol && trade.day === day && (trade.quarter ?? this.lastQuarter) === quarter,
    );
    return now.flatMap((trade) => this.fillsOf(trade, price, quotes));
  }

  private fillsOf({ position, closes, legs: wanted }: Trade, price: number, quotes: readonly Quote[]): BookFill[] {
    const held = this.held.get(position) ?? new Map<string, number>();
    const byContract = new Map(quotes.map((quote) => [contractOf(quote), quote]));
    const fills = (closes ? [...held] : []).flatMap(([contract, quantity]) => {
      const quote = byContract.get(contract);
      return quote ? [filled(position, quote, -quantity)] : [];
    });
    if (closes) held.clear();
    for (const { expiry, side, share, quantity } of wanted) {
      const listed = quotes.filter((quote) => quote.expiry === expiry && quote.side === side);
      const away = ({ strike }: Quote) => Math.abs(strike - share * price);
      const [nearest] = listed.sort((a, b) => away(a) - away(b));
      if (!nearest) throw new Error(`${position}: ${expiry} is not listed`);
      held.set(contractOf(nearest), (held.get(contractOf(nearest)) ?? 0) + quantity);
      fills.push(filled(position, nearest, quantity));
    }
    this.held.set(position, held);
    return fills;
  }
}

function filled(position: string, quote: Quote, quantity: number): BookFill {
  const { bid, ask } = quote;
  const price = 0.5 * (bid + ask) + SLIPPAGE * 0.5 * (ask - bid) * Math.sign(quantity);
  return { position, quote, quantity, price, fee: FEE * Math.abs(quantity) };
}
