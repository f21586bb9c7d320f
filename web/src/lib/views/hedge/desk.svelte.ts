import {
  DAYS_PER_YEAR,
  eachOf,
  expiryName,
  placeLegs,
  sideOf,
  UNDERLYING_ID,
  USUAL_DEVIATION,
  type NamedLeg,
  type PlacedLeg,
} from '@umwelt/core';
import { evaluateStructure, type StructureAnswer, type StructureRequest } from '$lib/data';
import { shortExpiry, figures } from '$lib/formats';
import { ticketOfLegs, type Ticket } from '$lib/book';
import { Latest } from '$lib/data/latest';
import { Loaded, MOST_LEGS, type Workbench } from '$lib/state';
import { legsOfKept, loadKeptStructures, type KeptStructure } from '$lib/kept';
import { aroundLegs, withLeg } from '$lib/structure';
import { expiriesOf, offerFocus, suggestedOf } from './offer';
import { expiryOf, GREEKS, PARAMS, vegaOf, type HedgeParams, type Target } from './params';
import { idOf, planOf, unitOf, type Exposure, type Instrument, type Plan } from './plan';

const MONTH_DAYS = 30;

/** What is exposed, and what each contract does that it may be hedged with. */
interface Told {
  hand: StructureAnswer | null;
  /** What a unit of the underlying changes by, where contracts are offered. */
  moves: Float64Array | null;
  instruments: readonly Instrument[];
}

/** Before and after the trades, and after those of another hedge, some days ahead. */
export interface Ahead {
  before: StructureAnswer;
  after: StructureAnswer;
  other: StructureAnswer | null;
}

/** What the panels of Hedge share: the exposure, the contracts, the trades, and what they leave. */
export class HedgeDesk {
  readonly params: HedgeParams;
  private readonly toldAsked: Loaded<Told>;
  private readonly keptAsked: Loaded<KeptStructure[]>;
  ahead = $state.raw<Ahead | null>(null);
  private aheadProblem = $state<string | null>(null);
  /** One request is under way at a time, so that a slider never runs ahead of its answers. */
  private readonly latest = new Latest<Ahead | null>(
    (ahead) => {
      this.aheadProblem = null;
      this.ahead = ahead;
    },
    (problem) => (this.aheadProblem = problem),
  );

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => this.latest.stop);
    this.keptAsked = new Loaded(() => {
      void bench.market.edition;
      return this.params.source === 'kept' ? loadKeptStructures(bench.context.asof) : null;
    });
    this.toldAsked = new Loaded(() => this.askTold());
    $effect(() => {
      const asked = this.aheadRequests;
      this.latest.ask(async () => {
        const [before, after, other = null] = await Promise.all((asked ?? []).map((one) => this.ask(one)));
        return before && after ? { before, after, other } : null;
      });
    });
  }

  readonly multiplier = $derived.by(() => this.bench.market.underlying?.multiplier ?? 1);

  /** Units of one lot of the underlying: a future is on as many as its option, all else is traded by one. */
  readonly lot = $derived.by(() => (this.bench.market.underlying?.kind === 'future' ? this.multiplier : 1));

  /** What the underlying is called that is traded: of an index what stands for it. */
  readonly underlyingName = $derived.by(() => {
    const { underlying } = this.bench.market;
    return underlying?.kind === 'index' ? 'its fund or future' : (underlying?.symbol ?? '');
  });

  /** Kept structures on the underlying in view. */
  readonly kept = $derived.by(() =>
    (this.keptAsked.value ?? []).filter(({ symbol }) => symbol === this.bench.context.symbol),
  );

  /** What is exposed: the legs in hand, or those of a kept structure, with what is held of the underlying. */
  readonly exposed: { readonly legs: readonly NamedLeg[]; readonly held: number } = $derived.by(() => {
    if (this.params.source !== 'kept') return this.bench.context;
    const found = this.kept.find(({ id }) => id === this.params.keptId);
    return found ? legsOfKept(found) : { legs: [], held: 0 };
  });

  /** The exposed legs where they are listed; null where one of them is not. */
  private readonly placed = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    return snapshot && placeLegs(snapshot, this.exposed.legs);
  });

  /** A deviation of the price until the first expiry of what is exposed; until that of a month without one. */
  private readonly deviation = $derived.by(() => {
    const { slices = [] } = this.bench.snapshot.snapshot ?? {};
    const places = (this.placed ?? []).map(({ slice }) => slice);
    const first = places.length > 0 ? Math.min(...places) : slices.findIndex(({ fit }) => fit.days >= MONTH_DAYS);
    const fit = slices[first]?.fit;
    return fit && fit.atmVol > 0 ? fit.atmVol * Math.sqrt(fit.years) : USUAL_DEVIATION;
  });

  /** Whether the exposure is one of legs. */
  readonly hasLegs = $derived.by(() => this.params.source !== 'typed');

  /** Contracts that may be taken: those that are suggested and those that were added. */
  readonly offered: readonly NamedLeg[] = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    if (!snapshot) return [];
    const suggested = suggestedOf(snapshot, expiriesOf(this.params.wanted));
    const added = this.params.added.filter((leg) => !suggested.some((one) => idOf(one) === idOf(leg)));
    return [...suggested, ...added];
  });

  /** Whether a contract may be among the trades. */
  isTaken(leg: NamedLeg): boolean {
    return !this.params.excluded.some((one) => idOf(one) === idOf(leg));
  }

  toggle(leg: NamedLeg): void {
    const { excluded } = this.params;
    this.params.excluded = this.isTaken(leg) ? [...excluded, leg] : excluded.filter((one) => idOf(one) !== idOf(leg));
  }

  /** Offers the contract in focus too. */
  add(): void {
    offerFocus(this.bench);
  }

  isAdded(leg: NamedLeg): boolean {
    return this.params.added.some((one) => idOf(one) === idOf(leg));
  }

  drop(leg: NamedLeg): void {
    this.params.added = this.params.added.filter((one) => idOf(one) !== idOf(leg));
  }

  /** What is asked of legs, whatever they are. */
  private requestOf(
    legs: StructureRequest['legs'],
    held: number,
    more: Partial<StructureRequest> = {},
  ): StructureRequest | null {
    const { shown } = this.bench.snapshot;
    const { current, calendar } = this.bench.market;
    if (!shown || !current) return null;
    const { instant, slices } = shown.snapshot;
    const years = legs.map(({ slice }) => slices[slice]!.fit.years);
    const { events, dividends } = aroundLegs(current.events, calendar, instant, years);
    return {
      ...{ legs, others: [], held: held / this.multiplier, fill: 'mid', fee: 0, basis: this.bench.context.basis },
      ...{ events, dividends, scenario: {}, move: 0, moments: [], along: 'price', tied: 0, ends: [0, 0] },
      ...{ hasLegs: false, hasHalf: false, hasEvens: false, depth: 'values', ...more },
    };
  }

  private ask(request: StructureRequest | null): Promise<StructureAnswer | null> {
    const { shown } = this.bench.snapshot;
    return request && shown
      ? evaluateStructure(shown.snapshot, request, shown.terms, shown.quotes)
      : Promise.resolve(null);
  }

  private askTold(): Promise<Told> | null {
    const { snapshot } = this.bench.snapshot;
    const { held } = this.exposed;
    const offered = snapshot ? placeLegs(snapshot, this.offered) : null;
    if (!snapshot || !offered) return null;
    // Moves are counted alike for what is exposed and for what it may be hedged with.
    const more = { reactionDeviation: this.deviation };
    const hand = this.hasLegs && this.placed && this.placed.length > 0 ? this.requestOf(this.placed, held, more) : null;
    // The underlying among them says what a unit of it does.
    const all = offered.length > 0 ? this.requestOf(offered, this.multiplier, more) : null;
    const year = snapshot.asof.slice(0, 4);
    const { slices } = snapshot;
    return Promise.all([this.ask(hand), this.ask(all)]).then(([found, told]) => ({
      hand: found,
      moves: told?.reactions.at(-1)?.changes ?? null,
      instruments: offered.map((leg, i): Instrument => ({
        ...{ leg, id: idOf(leg), values: told!.evaluation.legs[i]!, reactions: told!.reactions[i]! },
        words: `${shortExpiry(leg, year)} ${figures.strike(leg.strike)} ${leg.side}`,
        openInterest: sideOf(slices[leg.slice]!, leg.side).openInterest[leg.index]!,
      })),
    }));
  }

  readonly told = $derived.by(() => this.toldAsked.value);
  readonly problem = $derived.by(
    () => this.keptAsked.problem ?? this.toldAsked.problem ?? this.aheadProblem ?? this.bench.problem,
  );

  /** Why there is no exposure; null where there is one. */
  readonly missing = $derived.by(() => {
    if (!this.hasLegs) return null;
    const { symbol } = this.bench.context;
    const { legs, held } = this.exposed;
    if (this.params.source === 'kept' && legs.length === 0 && held === 0)
      return this.kept.length === 0 ? 'Nothing is kept on this underlying.' : 'Choose one of the kept structures.';
    if (legs.length === 0)
      return held === 0 ? 'No legs are in hand: pick some in the Chain or in Structure, or type an exposure.' : null;
    if (legs.some((leg) => leg.symbol !== symbol)) return 'Legs of several deliveries are not hedged here.';
    return this.bench.snapshot.snapshot && !this.placed ? 'A leg in hand is not listed at this moment.' : null;
  });

  /** What can be brought to a number: Greeks, the lean, and the vega of each expiry that is exposed or wanted. */
  readonly targets: readonly Target[] = $derived.by(() => {
    const { slices = [] } = this.bench.snapshot.snapshot ?? {};
    const own = this.hasLegs ? (this.placed ?? []).map(({ slice }) => expiryName(slices[slice]!)) : [];
    const wanted = this.params.wanted.filter((target) => expiryOf(target) !== null);
    const vegas = [...own.sort().map(vegaOf), ...wanted];
    return [...GREEKS, 'skew', ...vegas.filter((target, i) => vegas.indexOf(target) === i)];
  });

  /** Of the position, by target: of the legs that are exposed, or as it is typed. */
  readonly exposure: Exposure | null = $derived.by(() => {
    const { targets, exposed, multiplier } = this;
    if (!this.hasLegs) return eachOf(targets, (target) => this.params.typed[target] ?? 0);
    if (this.missing) return null;
    const hand = this.told?.hand;
    if (exposed.legs.length === 0) return eachOf(targets, (target) => (target === 'delta' ? exposed.held : 0));
    if (!hand || hand.reactions.length < exposed.legs.length) return null;
    const { legs } = hand.evaluation;
    const own = (target: Target) =>
      exposed.legs.reduce(
        (sum, leg, i) => sum + leg.quantity * multiplier * unitOf(target, leg, legs[i]!, hand.reactions[i]!),
        target === 'delta' ? exposed.held : 0,
      );
    return eachOf(targets, own);
  });

  /** What the position changes by at the places that single contracts are told of; null where it is not known. */
  private readonly changes: Float64Array | null = $derived.by(() => {
    const reactions = this.hasLegs ? this.told?.hand?.reactions : undefined;
    const moves = this.told?.moves;
    if (!reactions || !moves) return null;
    const { legs, held } = this.exposed;
    const sum = moves.map((move) => held * move);
    legs.forEach(({ quantity }, i) =>
      reactions[i]?.changes.forEach((change, k) => (sum[k]! += quantity * this.multiplier * change)),
    );
    return sum;
  });

  /** What is to be traded, or why nothing can be. */
  private readonly planned = $derived.by(() => {
    if (!this.exposure || !this.told) return null;
    const { wanted, aims, count, choice } = this.params;
    const instruments = this.told.instruments.filter(({ leg }) => this.isTaken(leg));
    return planOf({
      ...{ exposure: this.exposure, wanted, aims, count, choice, instruments },
      ...{ changes: this.changes, moves: this.told.moves },
      ...{ multiplier: this.multiplier, lot: this.lot },
    });
  });

  readonly plan: Plan | null = $derived.by(() => (this.planned && !('refused' in this.planned) ? this.planned : null));
  readonly refused: string | null = $derived.by(() =>
    this.planned && 'refused' in this.planned ? this.planned.refused : null,
  );

  nameOf(id: string): string {
    if (id === UNDERLYING_ID) return this.underlyingName;
    return this.told?.instruments.find((one) => one.id === id)?.words ?? id;
  }

  /** The trades: contracts as legs, each at what it is bought or sold for, and units of the underlying; null where nothing can be traded. */
  private readonly trades = $derived.by((): { legs: (PlacedLeg & { entry?: number })[]; held: number } | null => {
    const { plan, told } = this;
    if (!plan || !told) return null;
    const held = plan.steps.find(({ id }) => id === UNDERLYING_ID)?.quantity ?? 0;
    const legs = plan.steps.flatMap(({ id, quantity }) => {
      const found = told.instruments.find((one) => one.id === id);
      if (!found) return [];
      const entry = quantity > 0 ? found.values.ask : found.values.bid;
      return [{ ...found.leg, quantity, ...(Number.isFinite(entry) && { entry }) }];
    });
    return { legs, held: held * this.lot };
  });

  /** What is asked some days ahead: of what is in hand, and of that with the trades beside it; null where nothing is in hand. */
  private readonly aheadRequests = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    const { trades, placed } = this;
    const { held } = this.exposed;
    if (!snapshot || !trades || !placed || placed.length === 0 || !this.hasLegs) return null;
    const after = [...placed, ...trades.legs];
    const first = Math.min(...after.map(({ slice }) => snapshot.slices[slice]!.fit.years));
    const elapsed = Math.min(this.params.ahead / DAYS_PER_YEAR, first);
    const more: Partial<StructureRequest> = {
      ...{ scenario: { elapsed }, moments: [elapsed, 0], depth: 'first' },
      // Moves are counted alike before and after.
      gridDeviation: this.deviation,
    };
    const { against, againstHeld } = this.params;
    const other = this.hasOther ? placeLegs(snapshot, against) : null;
    return [
      this.requestOf(placed, held, more),
      this.requestOf(after, held + trades.held, more),
      ...(other ? [this.requestOf([...placed, ...other], held + againstHeld, more)] : []),
    ];
  });

  /** The legs in hand with the trades. */
  private readonly hedged: readonly NamedLeg[] = $derived.by(() =>
    (this.trades?.legs ?? []).reduce<readonly NamedLeg[]>(
      (legs, leg) => withLeg(legs, leg, leg.quantity, Infinity),
      this.exposed.legs,
    ),
  );

  /** Takes what is exposed in hand, with the trades beside it. */
  take(): void {
    const { trades, hedged, exposed, bench } = this;
    if (!trades) return;
    const held = exposed.held + trades.held;
    bench.context.legs = hedged;
    bench.context.held = held;
    this.params.source = 'structure';
  }

  /** Opens the ticket that books the trades. */
  book(): void {
    const { trades, bench } = this;
    const { snapshot } = bench.snapshot;
    if (!trades || !snapshot) return;
    const unit = bench.market.underlying?.kind === 'future' ? this.multiplier : 1;
    const ticket = ticketOfLegs(snapshot, trades.legs, trades.held, unit);
    bench.dialogs.ticket = {
      ...ticket,
      ...{ title: 'Trades of the hedge', name: `${snapshot.symbol} hedge` },
    } satisfies Ticket;
  }

  /** Keeps these trades as the other hedge, which those to come are held against. */
  putBeside(): void {
    const { trades, params } = this;
    if (!trades) return;
    params.against = trades.legs.map(({ symbol, expiry, settlement, strike, side, quantity }) => ({
      ...{ symbol, expiry, settlement, strike, side, quantity },
    }));
    params.againstHeld = trades.held;
  }

  readonly hasOther = $derived.by(() => this.params.against.length > 0 || this.params.againstHeld !== 0);

  dropOther(): void {
    this.params.against = [];
    this.params.againstHeld = 0;
  }

  /** Whether the trades can be taken in hand: whole contracts, no more legs than can be. */
  readonly canTake = $derived.by(
    () => this.hasLegs && this.params.count === 'whole' && this.trades !== null && this.hedged.length <= MOST_LEGS,
  );
}
