import {
  deriveSnapshot,
  impliedColumns,
  maturityShares,
  writtenOn,
  type Snapshot,
  type SnapshotFit,
} from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { chainsOf, snapshotOf, termsOf } from './chains';
import { World } from './market';
import { LAST_QUARTER } from './path';
import { copyOf, FAULT_KINDS, isFound, plant, withoutFaults, type FaultKind, type PlantedFault } from './plant';
import { Random } from './random';
import { UNDERLYINGS } from './underlyings';
import type { UnderlyingSpec } from './world';

/** UMWELT_CHAINS=10000 plants so many; some hundreds are enough for every day. */
const CHAINS = Number(process.env['UMWELT_CHAINS'] ?? 200);
/** Sessions of an underlying that are looked at together: their chains are made once. */
const TOGETHER = 8;
const MOST_FAULTS = 5;

const world = new World();

/** Clean chains of some sessions in a row. */
function cleanChains(spec: UnderlyingSpec, from: number, count: number): Snapshot[] {
  const sessions = world.path(spec.symbol).slice(from, from + count);
  return [...chainsOf(spec, sessions)]
    .filter(({ quarter }) => quarter === LAST_QUARTER)
    .map(({ moment, clean }) => snapshotOf(spec.symbol, moment, clean));
}

const MEASURES = [
  ...(['iv7', 'iv30', 'iv60', 'iv90', 'iv180', 'iv360', 'termSlope', 'varianceIndex', 'frontStraddleMove'] as const),
  ...(['riskReversal25', 'butterfly25', 'riskReversal10', 'butterfly10'] as const),
];
type Measure = (typeof MEASURES)[number];

/** One standard error of a measure, as its quotes let it be known. */
function errorOf({ expiries, measures }: SnapshotFit, name: Measure): number {
  const fitted = expiries.filter(({ curve, years, expiryAside }) => curve && years > 0 && expiryAside === null);
  const ofVol = (days: number) =>
    Math.hypot(
      ...maturityShares(fitted, days / 365).map((share, i) => (share > 0 ? share * fitted[i]!.atmVolUncertainty : 0)),
    );
  if (name === 'varianceIndex') return 1.5 * 100 * ofVol(30);
  if (name === 'termSlope') return Math.hypot(ofVol(30), ofVol(90));
  if (name === 'frontStraddleMove') return measures.frontStraddleUncertainty;
  if (name.startsWith('iv')) return ofVol(Number(name.slice(2)));
  return (name.endsWith('10') ? 2.5 : 1) * measures.riskReversal25Uncertainty;
}

/** What no number is held to more closely than. */
const SLACK: Partial<Record<Measure, number>> = { varianceIndex: 0.05 };
const USUAL_SLACK = 0.0005;
const ERRORS = 3;

/** Measures that a fault has moved by more than what is lost with its quotes, and by more than three standard errors. */
function harmed(clean: SnapshotFit, faulty: SnapshotFit, lost: SnapshotFit): string[] {
  return MEASURES.filter((name) => {
    const [was, is, without] = [clean, faulty, lost].map(({ measures }) => measures[name]) as [number, number, number];
    if (Number.isNaN(is)) return Number.isFinite(without);
    // The front is another expiry where its only quotes are gone.
    const isOtherFront = clean.measures.frontExpiry !== faulty.measures.frontExpiry;
    if (name === 'frontStraddleMove' && isOtherFront) return faulty.measures.frontExpiry !== lost.measures.frontExpiry;
    const slack = name === 'frontStraddleMove' ? 0.002 * is : (SLACK[name] ?? USUAL_SLACK);
    const error = Math.max(errorOf(clean, name) || 0, errorOf(lost, name) || 0);
    return !(Math.abs(is - was) <= Math.abs(without - was) + ERRORS * error + slack);
  });
}

type Tally = Record<FaultKind, { planted: number; found: number; harmless: number; harmful: number }>;

/** Plants faults at random into clean chains and says what became of them. */
function plantMany(chains: number, seed: string) {
  const random = new Random(seed);
  const luck = () => random.uniform();
  const tally = Object.fromEntries(
    FAULT_KINDS.map((kind) => [kind, { planted: 0, found: 0, harmless: 0, harmful: 0 }]),
  ) as Tally;
  const worst: string[] = [];
  let harmfulChains = 0;
  for (let done = 0; done < chains;) {
    const spec = UNDERLYINGS[random.below(UNDERLYINGS.length)]!;
    const from = random.below(world.path(spec.symbol).length - TOGETHER);
    const held = cleanChains(spec, from, TOGETHER + 1);
    let past: { snapshot: Snapshot; expiries: SnapshotFit['expiries'] } | null = null;
    for (let i = 0; i < held.length && done < chains; i++) {
      const snapshot = held[i]!;
      const terms = termsOf(spec, new Date(snapshot.asof).toISOString().slice(0, 10));
      const before = past;
      const clean = deriveSnapshot(snapshot, terms, { before });
      past = { snapshot, expiries: clean.expiries };
      if (i === 0) continue;
      const chain = copyOf(snapshot);
      const faults: PlantedFault[] = [];
      for (let n = 1 + random.below(MOST_FAULTS); n > 0; n--) {
        const fault = plant(FAULT_KINDS[random.below(FAULT_KINDS.length)]!, chain, held[i - 1]!, luck);
        if (fault) faults.push(fault);
      }
      if (faults.length === 0) continue;
      done++;
      const faulty = deriveSnapshot(chain, terms, { before });
      const lost = deriveSnapshot(withoutFaults(snapshot, faults), terms, { before });
      const hits = harmed(clean, faulty, lost);
      if (hits.length > 0) harmfulChains++;
      const on = writtenOn(chain, terms);
      for (const fault of faults) {
        const isTold = isFound(fault, faulty.expiries, (fit, side, strike) => {
          const slice = chain.slices.find((one) => one.expiry === fit.expiry)!;
          const { reason } = impliedColumns(slice.strike, slice[side], fit, side === 'call' ? 1 : -1, on);
          return reason[slice.strike.indexOf(strike)] !== 0;
        });
        const counts = tally[fault.kind];
        counts.planted++;
        if (isTold) counts.found++;
        else if (hits.length > 0) counts.harmful++;
        else counts.harmless++;
      }
      if (hits.length > 0) worst.push(`${spec.symbol} ${new Date(snapshot.asof).toISOString()}: ${hits.join(', ')}`);
    }
  }
  return { tally, harmfulChains, worst };
}

describe('faults planted at random', () => {
  it(
    'are found or do no harm: no measure moves by more than what the lost quotes explain',
    { timeout: 60_000 + 400 * CHAINS },
    () => {
      const { tally, harmfulChains, worst } = plantMany(CHAINS, 'planted faults');
      if (process.env['UMWELT_CHAINS']) console.table(tally);
      const planted = Object.values(tally).reduce((sum, counts) => sum + counts.planted, 0);
      const harmful = Object.values(tally).reduce((sum, counts) => sum + counts.harmful, 0);
      expect(planted).toBeGreaterThan(2 * CHAINS);
      // What a quote says within its spread of what it should nobody can tell: such faults do little, and seldom.
      expect(harmful / planted, worst.join('\n')).toBeLessThan(0.015);
      expect(harmfulChains / CHAINS, worst.join('\n')).toBeLessThan(0.05);
      // What can be seen in the quote alone is always found.
      for (const kind of ['crossed', 'zero-bid', 'missing-side'] as const) {
        expect(tally[kind].found, kind).toBe(tally[kind].planted);
      }
    },
  );
});

describe('what is set aside', () => {
  const spec = UNDERLYINGS.find(({ symbol }) => symbol === 'CAIR')!;
  const terms = termsOf(spec, '2030-10-01');
  const at = world.path('CAIR').findIndex(({ day }) => day === '2030-10-01');
  const [snapshot] = cleanChains(spec, at, 1) as [Snapshot];
  const front = snapshot.slices[0]!;
  const nearest = [...front.strike.keys()].sort(
    (a, b) => Math.abs(front.strike[a]! - snapshot.price) - Math.abs(front.strike[b]! - snapshot.price),
  );

  it.each(['crossed', 'outlier', 'zero-bid'] as const)(
    'a quote that is %s feeds no measure: all are those of the chain without it',
    (kind) => {
      for (const i of nearest.slice(0, 6)) {
        for (const side of ['call', 'put'] as const) {
          const [faulty, without] = [copyOf(snapshot), copyOf(snapshot)];
          const quotes = faulty.slices[0]![side];
          if (!(quotes.bid[i]! > 0.2)) continue;
          if (kind === 'crossed') [quotes.bid[i], quotes.ask[i]] = [quotes.ask[i]!, quotes.bid[i]!];
          else if (kind === 'zero-bid') quotes.bid[i] = 0;
          else for (const name of ['bid', 'ask'] as const) quotes[name][i]! += 0.03 * snapshot.price;
          without.slices[0]![side].bid[i] = without.slices[0]![side].ask[i] = NaN;
          const [got, expected] = [faulty, without].map((one) => deriveSnapshot(one, terms).measures);
          const { contracts, usable, quality, ...rest } = got!;
          for (const [name, value] of Object.entries(rest)) {
            const wanted = expected![name as keyof typeof rest];
            if (typeof value !== 'number') expect(value, name).toBe(wanted);
            // Vols are solved one from another: what is not used moves where the search begins, and the last digits.
            else if (Math.abs(value - (wanted as number)) > 1e-6 * Math.max(1, Math.abs(value)))
              expect(value, `${name} without the ${side} at ${front.strike[i]!}`).toBe(wanted);
          }
          expect(contracts).toBe(expected!.contracts + 1);
          expect(usable).toBe(expected!.usable);
          expect(quality).toBeLessThanOrEqual(expected!.quality + 0.5);
        }
      }
    },
  );
  it('volume and open contracts still count it', () => {
    const faulty = copyOf(snapshot);
    const quotes = faulty.slices[0]!.call;
    [quotes.bid[nearest[0]!], quotes.ask[nearest[0]!]] = [quotes.ask[nearest[0]!]!, quotes.bid[nearest[0]!]!];
    const [got, clean] = [faulty, snapshot].map((one) => deriveSnapshot(one, terms).measures);
    for (const name of ['volume', 'putVolume', 'openInterest', 'putOpenInterest'] as const) {
      expect(got![name]).toBe(clean![name]);
    }
  });
});

describe('an expiry that speaks of another price', () => {
  const spec = UNDERLYINGS.find(({ symbol }) => symbol === 'QUAY')!;
  const sessions = world.path('QUAY');
  const told = [...chainsOf(spec, sessions)].filter(({ quarter }) => quarter === LAST_QUARTER);
  it('is set aside in every session in which it is held, and no other is', () => {
    let past: { snapshot: Snapshot; expiries: SnapshotFit['expiries'] } | null = null;
    const wrong: string[] = [];
    let broken = 0;
    for (const { session, moment, quotes } of told) {
      const snapshot = snapshotOf('QUAY', moment, quotes);
      const { expiries } = deriveSnapshot(snapshot, termsOf(spec, session.day), { before: past });
      past = { snapshot, expiries };
      for (const { expiry, expiryAside } of expiries) {
        if (expiry === spec.brokenExpiry) broken++;
        if ((expiryAside === 'broken-forward') !== (expiry === spec.brokenExpiry))
          wrong.push(`${session.day} ${expiry}`);
      }
    }
    expect(broken).toBeGreaterThan(130);
    expect(wrong).toEqual([]);
  });
});
