import { describe, expect, it } from 'vitest';
import type { Side } from '../contracts';
import { makeRandom } from '../odds';
import { evaluateOnMarket, priceLegsOnCurve, unmoved, type MarketLeg, type MarketStructure } from '../structures';
import {
  columnOf,
  FINDER_KINDS,
  findCandidates,
  foundOf,
  isOptionLeg,
  profitOf,
  type CandidateLeg,
  type Candidates,
  type FinderKind,
  type FinderMarket,
} from '.';
import { errorOfPast } from './solved';
import { askedOf, candidateRow, profitOfCandidate, SPOT, testWorld } from './testing';

type Option = Extract<CandidateLeg, { strike: number }>;

/** A candidate as a structure on its market. */
function structureOf(market: FinderMarket, legs: readonly CandidateLeg[]): MarketStructure {
  return {
    slices: market.slices,
    around: market.around,
    legs: legs.map((leg): MarketLeg => {
      if (!isOptionLeg(leg)) return leg;
      const slice = market.slices.findIndex(({ expiry }) => expiry === leg.expiry);
      return { symbol: 'X', ...leg, slice, index: market.slices[slice]!.strike.indexOf(leg.strike) };
    }),
    ownVols: legs.map(() => NaN),
    ...{ fill: 'mid', choice: { basis: 'curve', realizedVol: NaN, indexVol: NaN }, scenario: unmoved(SPOT) },
    past: (fit) => market.past(fit),
  };
}

const words = (legs: readonly CandidateLeg[]) =>
  legs
    .map((leg) =>
      isOptionLeg(leg) ? `${leg.quantity} ${leg.expiry} ${leg.strike} ${leg.side}` : `held ${leg.quantity}`,
    )
    .sort()
    .join('; ');

const ON = { symbol: 'X', family: null, asof: 0, price: SPOT, multiplier: 100 };

const rowsOf = ({ solved, table }: Candidates) =>
  Array.from({ length: table.count }, (_, at) => candidateRow(solved, table, at));

/** What a kind is, said of a structure that somebody has in hand: the slow way. */
function isKind(kind: FinderKind, legs: readonly CandidateLeg[]): boolean {
  const options = legs.filter(isOptionLeg).sort((a, b) => a.strike - b.strike || a.side.localeCompare(b.side));
  const held = legs.length - options.length;
  const q = options.map(({ quantity }) => quantity).join();
  const sides = options.map(({ side }) => side[0]).join('');
  const [k1 = 0, k2 = 0, k3 = 0, k4 = 0] = options.map(({ strike }) => strike);
  const isOne = new Set(options.map(({ expiry }) => expiry)).size === 1;
  const same = (a: number, b: number) => Math.abs(a - b) < 1e-9;
  const isSide = sides === 'c'.repeat(options.length) || sides === 'p'.repeat(options.length);
  const [first, second] = options as [Option, Option];
  if (kind === 'calendar' || kind === 'diagonal') {
    if (held || options.length !== 2 || !isSide || isOne) return false;
    const sold = first.quantity < 0 ? first : second;
    const bought = sold === first ? second : first;
    const isLonger = sold.expiry < bought.expiry && sold.quantity === -1 && bought.quantity === 1;
    return isLonger && same(k1, k2) === (kind === 'calendar');
  }
  if (!isOne || held > 0 !== (kind === 'covered-call' || kind === 'collar')) return false;
  const isIron = sides === 'ppcc';
  switch (kind) {
    case 'call':
      return sides === 'c' && (q === '1' || q === '-1');
    case 'put':
      return sides === 'p' && (q === '1' || q === '-1');
    case 'secured-put':
      return sides === 'p' && q === '-1';
    case 'covered-call':
      return sides === 'c' && q === '-1';
    case 'vertical-credit':
      return (sides === 'cc' && q === '-1,1') || (sides === 'pp' && q === '1,-1');
    case 'vertical-debit':
      return (sides === 'cc' && q === '1,-1') || (sides === 'pp' && q === '-1,1');
    case 'straddle':
      return sides === 'cp' && same(k1, k2) && (q === '1,1' || q === '-1,-1');
    case 'strangle':
      return sides === 'pc' && k1 < k2 && (q === '1,1' || q === '-1,-1');
    case 'risk-reversal':
      return sides === 'pc' && k1 < k2 && (q === '-1,1' || q === '1,-1');
    case 'collar':
      return sides === 'pc' && k1 < k2 && q === '1,-1';
    case 'ratio':
      return (sides === 'cc' && q === '1,-2') || (sides === 'pp' && q === '-2,1');
    case 'backspread':
      return (sides === 'cc' && q === '-1,2') || (sides === 'pp' && q === '2,-1');
    case 'butterfly':
      return isSide && q === '1,-2,1' && same(k2 - k1, k3 - k2);
    case 'condor':
      return isSide && q === '1,-1,-1,1' && same(k2 - k1, k4 - k3);
    case 'iron-condor':
      return isIron && q === '1,-1,-1,1' && k2 < k3 && same(k2 - k1, k4 - k3);
    case 'iron-butterfly':
      return isFly(options) && same(k2 - k1, k4 - k3);
    case 'broken-wing':
      return (
        (isSide && q === '1,-2,1' && !same(k2 - k1, k3 - k2)) ||
        (isIron && q === '1,-1,-1,1' && k2 < k3 && !same(k2 - k1, k4 - k3)) ||
        (isFly(options) && !same(k2 - k1, k4 - k3))
      );
  }
}

/** A put and a call sold at one strike, with a put under and a call over it. */
function isFly(options: readonly Option[]): boolean {
  if (options.length !== 4) return false;
  const [low, one, two, high] = options as [Option, Option, Option, Option];
  const sides = `${low.side} ${[one.side, two.side].sort().join(' ')} ${high.side}`;
  return (
    sides === 'put call put call' &&
    one.strike === two.strike &&
    low.strike < one.strike &&
    high.strike > one.strike &&
    [low, one, two, high].map(({ quantity }) => quantity).join() === '1,-1,-1,1'
  );
}

/** All sets of up to four contracts of a chain with quantities from −2 to 2. */
function* everything(market: FinderMarket): Generator<CandidateLeg[]> {
  const contracts = market.slices.flatMap(({ expiry, settlement, strike }) =>
    [...strike].flatMap((one) =>
      (['call', 'put'] as const).map((side: Side) => ({ expiry, settlement, strike: one, side })),
    ),
  );
  function* chosen(from: number, left: number, legs: readonly CandidateLeg[]): Generator<readonly CandidateLeg[]> {
    if (legs.length > 0) yield legs;
    if (left === 0) return;
    for (let i = from; i < contracts.length; i++)
      for (const quantity of [-2, -1, 1, 2]) yield* chosen(i + 1, left - 1, [...legs, { ...contracts[i]!, quantity }]);
  }
  for (const legs of chosen(0, 4, [])) {
    yield [...legs];
    if (legs.length <= 2) yield [...legs, { underlying: true, quantity: 1 }];
  }
}

describe('candidates', () => {
  it('are those of a plain enumeration of a small chain, by kind', () => {
    const market = testWorld({ strikes: [90, 95, 100, 110, 115], years: [0.1] });
    const across = testWorld({ strikes: [95, 100], years: [0.1, 0.3] });
    const wanted = new Map<string, Set<string>>(FINDER_KINDS.map((kind) => [kind, new Set()]));
    for (const [world, kinds] of [
      [market, FINDER_KINDS.filter((kind) => kind !== 'calendar' && kind !== 'diagonal')],
      [across, ['calendar', 'diagonal']],
    ] as const)
      for (const legs of everything(world))
        for (const kind of kinds) if (isKind(kind, legs)) wanted.get(kind)!.add(words(legs));
    for (const kind of FINDER_KINDS) {
      const world = kind === 'calendar' || kind === 'diagonal' ? across : market;
      const rows = rowsOf(findCandidates(world, askedOf([kind])));
      const found = rows.map(({ legs }) => words(legs)).sort();
      expect(found, kind).toEqual([...wanted.get(kind)!].sort());
      expect(found.length, kind).toBeGreaterThan(0);
    }
  });

  it('keep within limits on sold legs, or on all where none is sold', () => {
    const market = testWorld();
    const legs = { delta: [0.1, 0.35], wing: [0.2, 1.2] } as const;
    const condors = rowsOf(findCandidates(market, askedOf(['iron-condor'], { legs })));
    const free = rowsOf(findCandidates(market, askedOf(['iron-condor'])));
    expect(condors.length).toBeGreaterThan(0);
    expect(condors.length).toBeLessThan(free.length);
    for (const { measures } of condors) {
      expect(measures.shortDelta).toBeLessThanOrEqual(0.35);
      expect(measures.shortDelta).toBeGreaterThanOrEqual(0.1);
    }
    const bought = rowsOf(findCandidates(market, askedOf(['strangle'], { legs: { delta: [0.1, 0.35] } })));
    expect(new Set(bought.map((row) => Math.sign((row.legs[0] as Option).quantity)))).toEqual(new Set([1, -1]));
    for (const { measures } of bought) expect(measures.shortDelta).toBeLessThanOrEqual(0.35);
  });

  it('leave out what is refused unless it is asked for, and count it', () => {
    const world = testWorld();
    const call = { ...world.slices[0]!.call, bid: world.slices[0]!.call.bid.slice() };
    call.bid[4] = 0;
    const slices = [{ ...world.slices[0]!, call }, world.slices[1]!];
    const first = world.vols(0);
    const reason = first.call.reason.slice();
    reason[4] = 3;
    const refused = { ...first, call: { ...first.call, reason } };
    const market = { ...world, slices, vols: (at: number) => (at === 0 ? refused : world.vols(at)) };
    const found = findCandidates(market, askedOf(['call']));
    expect(found.quotesOut).toBe(1);
    expect(found.table.count).toBe(2 * 17);
    expect(findCandidates(market, askedOf(['call'], { hasAll: true })).table.count).toBe(2 * 18);
  });

  it('beyond the limit of work are counted', () => {
    const market = testWorld();
    const all = findCandidates(market, askedOf(['iron-condor'])).table.count;
    const some = findCandidates(market, askedOf(['iron-condor'], { most: 50 }));
    expect(some.table.count).toBe(50);
    expect(some.over).toBe(all - 50);
  });
});

describe('measures', () => {
  const near = (value: number, wanted: number, words: string, digits = 9) =>
    Number.isFinite(wanted)
      ? expect(value, words).toBeCloseTo(wanted, digits)
      : expect(value, words).toBe(Number.isNaN(wanted) ? NaN : wanted);

  for (const exercise of ['european', 'american'] as const)
    it(`are those that the structure is evaluated at: ${exercise}`, () => {
      const market = testWorld({ exercise, noise: (strike) => 0.03 * Math.sin(strike) });
      const random = makeRandom(5);
      for (const kind of FINDER_KINDS) {
        const rows = rowsOf(findCandidates(market, askedOf([kind])));
        const isAcross = kind === 'calendar' || kind === 'diagonal';
        for (let i = 0; i < 3; i++) {
          const { legs, measures } = rows[Math.floor(random() * rows.length)]!;
          const told = `${kind} ${words(legs)}`;
          // What early exercise is worth is interpolated, at other points for other depths: within 1e-7 of the spot.
          const digits = exercise === 'european' ? 9 : 5;
          const found = evaluateOnMarket(structureOf(market, legs));
          const odds = (basis: string) => found.odds.find((one) => one.basis === basis)!;
          near(measures.cost, found.entry, told);
          near(measures.worst, found.cost.worst, told);
          near(measures.best, found.cost.best, told);
          near(measures.maxProfit, found.profile.maxProfit, told, 6);
          near(measures.maxLoss, found.profile.maxLoss, told, 6);
          near(measures.capital, found.capitalAtRisk, told, 6);
          const evens = found.profile.breakEvens.filter((price) => price > 0);
          near(measures['evens.lower'], evens[0] ?? NaN, told, 5);
          near(measures['evens.upper'], evens.at(-1) ?? NaN, told, 5);
          near(measures['greeks.delta'], found.values.delta, told, digits);
          near(measures['greeks.gamma'], found.values.gamma, told, digits);
          near(measures['greeks.theta'], found.values.theta, told, digits);
          near(measures['greeks.vega'], found.values.vega, told, digits);
          near(measures.skew, found.skew, told, digits);
          near(measures.curvature, found.curvature, told, digits);
          near(measures.volSpread, found.volSold - found.volBought, told, digits);
          near(measures.probabilityOfProfit, odds('curve').profit, told, 7);
          near(measures['odds.past'], odds('past').profit, told, isAcross ? 7 : 12);
          const worst = Math.max(0, -Math.min(...found.stress.pnl.flat()));
          near(measures.stress, worst, told, 6);
          // Of European legs that end together the mean by the past is that of the profit, discounted but for the cost.
          if (exercise === 'european' && !isAcross && !legs.some((leg) => !isOptionLeg(leg))) {
            const { fit } = market.slices.find(({ expiry }) => expiry === (legs[0] as Option).expiry)!;
            const mean = odds('past').expected + found.entry;
            near(measures['edges.past.money'], fit.discount * mean - found.entry, told, 8);
            // As if one more had lost the capital: of n + 1 values the variance, over n.
            const { deviation, expected } = odds('past');
            const n = market.past(fit)!.independent;
            const apart = expected + measures.capital;
            const variance = (n * deviation ** 2 + (n / (n + 1)) * apart ** 2) / (n + 1);
            near(measures['edges.past.error'], fit.discount * Math.sqrt(variance / n), told, 8);
          }
        }
      }
    });

  it('by moves that all gained the same are known no better than their number tells', () => {
    // n gains of g and a loss of C, n + 1 in all: their deviation is (C + g) √n ÷ (n + 1), which over √n is what is left.
    expect(errorOfPast(32, 32 ** 2, 5, 68)).toBeCloseTo(100 / 6, 12);
    expect(errorOfPast(32, 32 ** 2, 500, 68)).toBeCloseTo(100 / 501, 12);
    expect(errorOfPast(32, 32 ** 2, 5, 0)).toBeGreaterThan(0);
  });

  it('of a calendar by the past are the mean of its profits there', () => {
    const market = testWorld();
    const found = findCandidates(market, askedOf(['calendar', 'diagonal']));
    for (const at of [0, 7, 40]) {
      const { legs, measures } = candidateRow(found.solved, found.table, at);
      const past = evaluateOnMarket(structureOf(market, legs)).odds.find(({ basis }) => basis === 'past')!;
      const { discount } = market.slices[0]!.fit;
      const told = words(legs);
      near(measures['edges.past.money'], discount * (past.expected + measures.cost) - measures.cost, told, 4);
      // A row draws it with a leg that is held on: the same without early exercise.
      const drawn = profitOf(foundOf(found, ON), at);
      const profitAt = profitOfCandidate(found.solved, found.table, at);
      for (const price of [90, 100, 113]) expect(drawn(price), told).toBeCloseTo(profitAt(price), 8);
    }
  });

  it('of fills lie between worst and best by the share of the half spread, with fees for each contract', () => {
    const market = testWorld({ halfSpread: 0.05 });
    const [row] = rowsOf(findCandidates(market, askedOf(['iron-condor'], { fill: { slippage: 0.3 }, fee: 0.01 })));
    const { cost, worst, mid, best, spread } = row!.measures;
    expect(worst - best).toBeCloseTo(4 * 2 * 0.05, 10);
    expect(spread).toBeCloseTo(0.4, 10);
    expect(cost - mid).toBeCloseTo(0.3 * 0.2, 10);
    const legs = row!.legs.filter(isOptionLeg).map((leg) => ({ ...leg, symbol: 'X', slice: 0, index: 0 }));
    const placed = legs.map((leg) => ({ ...leg, index: market.slices[0]!.strike.indexOf(leg.strike) }));
    const priced = priceLegsOnCurve({ symbol: 'X', slices: market.slices }, placed, market.around.on);
    expect(mid - priced.mid).toBeCloseTo(0.04, 10);
  });

  it('of what is not of use do not become numbers', () => {
    const market = { ...testWorld(), past: () => null, ownVol: () => NaN };
    const { table } = findCandidates(market, askedOf(['iron-condor', 'calendar']));
    for (const key of ['odds.past', 'odds.ownVol', 'edges.past.money', 'edges.ownVol.money'] as const)
      expect(columnOf(table, key).every(Number.isNaN), key).toBe(true);
  });

  it('count announcements up to the last expiry', () => {
    const rows = rowsOf(findCandidates(testWorld(), askedOf(['call', 'calendar'])));
    const of = (kind: FinderKind, expiry: string) =>
      rows.find((row) => row.kind === kind && (row.legs[0] as Option).expiry === expiry)!.measures.announcements;
    expect([of('call', '2031-04-17'), of('call', '2031-05-17'), of('calendar', '2031-04-17')]).toEqual([1, 2, 2]);
  });
});

describe('edges', () => {
  it('are nothing in a flat market priced by the model, for every kind', () => {
    for (const exercise of ['european', 'american'] as const) {
      const market = testWorld({ exercise, flatVol: 0.2, ownVol: 0.2 });
      for (const isOwnFlat of [true, false]) {
        const found = findCandidates(market, askedOf(FINDER_KINDS, { isOwnFlat }));
        for (const key of ['edges.curve.money', 'edges.ownVol.money'] as const) {
          const largest = columnOf(found.table, key).reduce((most, value) => Math.max(most, Math.abs(value)), 0);
          expect(largest, `${key} ${exercise}`).toBeLessThan(1e-8);
          expect(columnOf(found.table, key).some(Number.isNaN)).toBe(false);
        }
      }
    }
  });

  it('to the curve leave out what a strike says of itself', () => {
    const strikes = Array.from({ length: 21 }, (_, i) => 80 + 2 * i);
    // One call is quoted a tenth too high.
    const market = testWorld({
      strikes,
      years: [0.25],
      noise: (strike, side) => (strike === 110 && side === 'call' ? 0.1 : 0),
    });
    const rows = rowsOf(findCandidates(market, askedOf(['call'])));
    const at = (strike: number) =>
      rows.find(({ legs: [leg] }) => (leg as Option).strike === strike && (leg as Option).quantity === -1)!.measures;
    // The curve of the test is the true one: the miss is told larger than it is by what the quote would have pulled.
    expect(at(110)['edges.curve.money']).toBeGreaterThan(0.1);
    expect(at(110)['edges.curve.money']).toBeLessThan(0.14);
    expect(at(106)['edges.curve.money']).toBeCloseTo(0, 6);
  });

  it('in per cent of risk and in vol points are those in money', () => {
    const found = findCandidates(testWorld(), askedOf(['iron-condor', 'straddle']));
    for (const at of [0, 5, found.table.count - 1]) {
      const { measures } = candidateRow(found.solved, found.table, at);
      expect(measures['edges.past.ofRisk']).toBeCloseTo(measures['edges.past.money'] / measures.capital, 12);
      const points = measures['edges.past.volPoints'];
      if (!Number.isNaN(points))
        expect(points).toBeCloseTo(measures['edges.past.money'] / Math.abs(measures['greeks.vega']), 12);
    }
  });
});

describe('identities', () => {
  it('unit butterflies over all strikes and the verticals at the ends sum to the discount', () => {
    const strikes = Array.from({ length: 41 }, (_, i) => 80 + i);
    const market = testWorld({ strikes, years: [0.2] });
    const legs = { width: [1, 1] } as const;
    const flies = rowsOf(findCandidates(market, askedOf(['butterfly'], { legs }))).filter(
      (row) => (row.legs[0] as Option).side === 'call',
    );
    const verticals = rowsOf(findCandidates(market, askedOf(['vertical-debit'], { legs })));
    const bull = verticals.find(
      ({ legs: [leg] }) => (leg as Option).side === 'call' && (leg as Option).strike === 119,
    )!;
    const bear = verticals.find(({ legs: [leg] }) => (leg as Option).side === 'put' && (leg as Option).strike === 80)!;
    const sum = flies.reduce((all, { measures }) => all + measures.mid, 0);
    expect(flies).toHaveLength(39);
    // One beyond each end, one between: a call vertical pays over, a put vertical under.
    expect(sum + bull.measures.mid + bear.measures.mid).toBeCloseTo(market.slices[0]!.fit.discount, 10);
  });

  it('odds of a profit are those that prices drawn from the law have', () => {
    const market = testWorld({ flatVol: 0.25, years: [0.25], ownVol: 0.25 });
    const found = findCandidates(market, askedOf(['iron-condor', 'broken-wing', 'ratio', 'strangle']));
    const random = makeRandom(3);
    const { forward, years } = market.slices[0]!.fit;
    const s = 0.25 * Math.sqrt(years);
    const draws = 40_000;
    const prices = Float64Array.from({ length: draws }, () => {
      const normal = Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
      return forward * Math.exp(s * normal - 0.5 * s * s);
    });
    for (const at of [3, 40, 200, found.table.count - 2]) {
      const { measures } = candidateRow(found.solved, found.table, at);
      const profitAt = profitOfCandidate(found.solved, found.table, at);
      const share = prices.reduce((sum, price) => sum + Number(profitAt(price) > 0), 0) / draws;
      const error = Math.sqrt((share * (1 - share)) / draws);
      expect(Math.abs(measures.probabilityOfProfit - share)).toBeLessThan(4 * error + 1e-9);
      expect(measures['odds.ownVol']).toBeCloseTo(measures.probabilityOfProfit, 10);
    }
  });
});
