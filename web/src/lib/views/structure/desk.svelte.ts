import {
  alongStrikes,
  dayOf,
  DAYS_PER_YEAR,
  FIRST_GREEKS,
  instantAfter,
  missingLeg,
  movedBy,
  nearestListed,
  placeLegs,
  rolled,
  scaled,
  split,
  thirds,
  withStrike,
  yearsBetween,
  type Depth,
  type NamedLeg,
  type PlacedLeg,
  type Scenario,
} from '@umwelt/core';
import { evaluateStructure, type StructureAnswer, type StructureRequest } from '$lib/data';
import { announcements, knownDividends } from '$lib/data/events';
import { shortDay } from '$lib/formats';
import { Latest } from '$lib/data/latest';
import { Loaded, MOST_LEGS, Steps, type Valued, type Workbench } from '$lib/state';
import { untrack } from 'svelte';
import { legWords } from '$lib/structure';
import { PARAMS, type Quantity, type StructureParams } from './params';

/** An answer with what was asked. */
export interface Evaluated extends StructureAnswer {
  request: StructureRequest;
  /** What stands beside, in the same scenario. */
  beside: StructureAnswer | null;
  shown: Valued;
}

/** What is in hand. */
interface Held {
  symbol: string | null;
  legs: readonly NamedLeg[];
  held: number;
}

/** What is left out where only the facts are wanted. */
const FACTS_ALONE = { along: 'price', hasLegs: false, hasHalf: false, tied: 0 } as const;
/** What a quantity in an address may be. */
const MOST_QUANTITY = 999_999;
/** How long nothing has moved when a hand is at rest. */
const REST_MS = 200;
/** Dates of the map. */
const MAP_DATES = 33;

/** Moments from now to the horizon, evenly. */
function mapMoments(horizon: number): number[] {
  return Array.from({ length: MAP_DATES }, (_, i) => (horizon * i) / (MAP_DATES - 1));
}

/** How much has to be told for something to be drawn. */
function depthOf(drawn: Quantity): Depth {
  if (drawn === 'profit') return 'values';
  return (FIRST_GREEKS as readonly string[]).includes(drawn) ? 'first' : 'second';
}

const DEPTHS: readonly Depth[] = ['values', 'first', 'second'];

/** Whether what is drawn is among what was told. */
export function isTold(drawn: Quantity, depth: Depth): boolean {
  return DEPTHS.indexOf(depth) >= DEPTHS.indexOf(depthOf(drawn));
}

/** What the panels of Structure share: the legs in hand, the scenario, and what the worker says of them. */
export class StructureDesk {
  readonly params: StructureParams;
  answer = $state.raw<Evaluated | null>(null);
  problem = $state<string | null>(null);
  /** One request is under way at a time, so that a slider never runs ahead of its answers. */
  private readonly latest = new Latest<Evaluated | null>(
    (answer) => {
      this.problem = null;
      // What comes late is of no use once another underlying is in view, or no leg in hand.
      if (answer && this.request && answer.shown.snapshot.symbol === this.bench.context.symbol) this.answer = answer;
    },
    (problem) => (this.problem = problem),
  );
  /** The market as it is, beside which a scenario stands. */
  private readonly stillAsked = new Loaded(() => {
    const { shown } = this.bench.snapshot;
    if (!this.isMoved || !shown || !this.given) return null;
    const request: StructureRequest = { ...this.given, ...FACTS_ALONE, moments: [], depth: 'values', scenario: {} };
    return evaluateStructure(shown.snapshot, request, shown.terms, shown.quotes);
  });
  /** What was done to the legs. */
  readonly steps = new Steps<Held>();
  /** While a leg is dragged its way is no step. */
  private isDragged = $state(false);

  /** While a hand moves something, and a moment longer: what is drawn then need not be laid out anew. */
  isMoving = $state(false);

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    let isFirst = true;
    $effect(() => {
      const { days, volPoints, skewPoints } = this.params;
      void [days, volPoints, skewPoints, bench.context.legs];
      if (isFirst) {
        isFirst = false;
        return;
      }
      this.isMoving = true;
      const timer = setTimeout(() => (this.isMoving = false), REST_MS);
      return () => clearTimeout(timer);
    });
    // Whatever changes the legs is a step: a button here, the keys of the Chain, the address.
    $effect(() => {
      const { symbol, legs, held } = bench.context;
      if (!this.isDragged) untrack(() => this.note({ symbol, legs, held }));
    });
    $effect(() => {
      const { shown } = bench.snapshot;
      const { request, besideRequest } = this;
      if (!shown || !request) this.answer = null;
      else {
        this.latest.ask(async () => {
          const told = (asked: StructureRequest) => evaluateStructure(shown.snapshot, asked, shown.terms, shown.quotes);
          const [found, beside] = await Promise.all([told(request), besideRequest && told(besideRequest)]);
          return found && { ...found, request, beside, shown };
        });
      }
    });
  }

  readonly legs: readonly NamedLeg[] = $derived.by(() => this.bench.context.legs);

  private note(now: Held): void {
    if (this.steps.now && this.steps.now.symbol !== now.symbol) this.steps.restart(now);
    else this.steps.take(now);
  }

  /** Where the legs are listed; null where one of them is not. */
  readonly placed: readonly PlacedLeg[] | null = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    return snapshot && placeLegs(snapshot, this.legs);
  });

  readonly multiplier = $derived.by(() => this.bench.market.underlying?.multiplier ?? 1);

  /** The expiries that legs can stand in. */
  private readonly slices = $derived.by(() => this.bench.snapshot.snapshot?.slices ?? []);

  /** The first leg that is not listed at this moment. */
  private readonly missing = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    return snapshot ? missingLeg(snapshot, this.legs) : undefined;
  });

  /** Where a leg is not listed: the legs that are, nearest to those in hand. */
  readonly nearest = $derived.by(() => (this.missing ? nearestListed(this.legs, this.slices) : null));

  /** What is said while there is no answer. */
  readonly waiting = $derived.by(() => {
    if (this.problem ?? this.bench.problem) return this.problem ?? this.bench.problem;
    if (this.missing) return `${legWords(this.missing)} is not listed at this moment.`;
    return 'Working out …';
  });

  /** Times what amounts of a unit are shown. */
  readonly times = $derived.by(() => (this.params.unit === 'unit' ? 1 : this.multiplier));

  /** Times what amounts of a unit are drawn, and their decimals: per cent of the capital at risk on wish. */
  readonly drawnTimes = $derived.by(() => {
    const capital = this.answer?.evaluation.capitalAtRisk ?? NaN;
    return this.params.unit === 'risk' && capital > 0 ? 100 / capital : this.times;
  });
  readonly drawnDigits = $derived.by(() => (this.params.unit === 'risk' ? 1 : this.digits));

  /** Decimals of amounts: a multiplier takes as many as it has zeros. */
  readonly digits = $derived.by(() => Math.max(0, this.bench.market.decimals - Math.round(Math.log10(this.times))));

  /** Years to the expiries of the legs. */
  private readonly years: readonly number[] = $derived.by(() => {
    const slices = this.bench.snapshot.snapshot?.slices;
    return (slices && this.placed?.map((leg) => slices[leg.slice]!.fit.years)) ?? [];
  });

  /** Years to the first of them; 0 without any. */
  private readonly horizon = $derived.by(() => (this.years.length > 0 ? Math.min(...this.years) : 0));

  readonly horizonDays = $derived.by(() => this.horizon * DAYS_PER_YEAR);

  /** Days of the scenario: none beyond the horizon. */
  readonly days = $derived.by(() => Math.min(this.params.days, this.horizonDays));

  readonly isMoved = $derived.by(
    () => this.params.days > 0 || this.params.volPoints !== 0 || this.params.skewPoints !== 0,
  );

  /** The market as it is, where the scenario is another. */
  readonly still = $derived.by(() => (this.isMoved ? (this.stillAsked.value?.evaluation ?? null) : null));

  /** Announcements before the last expiry of the legs. */
  readonly announced = $derived.by((): { at: number; words: string }[] => {
    const { shown } = this.bench.snapshot;
    const { current, calendar } = this.bench.market;
    if (!shown || !current || this.years.length === 0) return [];
    const { instant } = shown.snapshot;
    const last = instantAfter(instant, Math.max(...this.years));
    return announcements(current.events, calendar)
      .filter(({ at }) => at > instant && at <= last)
      .map(({ at, title }) => ({ at, words: `${title}, ${shortDay(dayOf(calendar, at))},` }));
  });

  /** What is asked whatever the scenario. */
  private readonly given = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { current, calendar } = this.bench.market;
    if (!shown || !current || !this.placed || !(this.horizon > 0)) return null;
    const { instant } = shown.snapshot;
    const life = { valued: instant, expires: instantAfter(instant, Math.max(...this.years)) };
    return {
      legs: this.placed,
      ...{
        held: this.bench.context.held / this.multiplier,
        fill: this.params.fill,
        fee: this.params.fee / this.multiplier,
        basis: this.bench.context.basis,
      },
      events: this.announced.map(({ at }) => yearsBetween(instant, at)),
      dividends: knownDividends(current.events, life, calendar),
    };
  });

  private readonly request: StructureRequest | null = $derived.by(() => {
    if (!this.given) return null;
    const { volPoints, skewPoints, dynamics, hasEvents, drawn, pictured } = this.params;
    const elapsed = this.days / DAYS_PER_YEAR;
    const scenario: Partial<Scenario> = {
      ...{ elapsed, volShift: volPoints / 100, skewShift: skewPoints / 100, dynamics, hasEvents },
    };
    const isOnTheWay = elapsed > 0 && elapsed < this.horizon;
    const dated = [...thirds(0, this.horizon), ...(isOnTheWay ? [elapsed] : [])];
    const moments = pictured === 'map' ? mapMoments(this.horizon) : dated;
    const along = pictured === 'vol' ? 'vol' : 'price';
    return {
      ...this.given,
      scenario,
      moments,
      along,
      hasHalf: !this.isMoving,
      hasLegs: pictured === 'legs',
      tied: this.params.tied,
      depth: depthOf(drawn),
    };
  });

  /** What is asked of what stands beside, in the same scenario; null where nothing does. */
  private readonly besideRequest: StructureRequest | null = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    const legs = snapshot && placeLegs(snapshot, this.params.before);
    if (!this.request || !legs || legs.length === 0) return null;
    const years = Math.min(...legs.map((leg) => snapshot.slices[leg.slice]!.fit.years));
    const { hasHalf } = this.request;
    return { ...this.request, ...FACTS_ALONE, hasHalf, legs, held: 0, moments: [0, years] };
  });

  /** What stands beside, with what the worker says of it. */
  readonly before = $derived.by(() => this.answer?.beside ?? null);

  /** Takes other legs in hand, unless there are none to take. */
  take(legs: readonly NamedLeg[] | null): void {
    if (legs) this.bench.context.legs = legs.slice(0, MOST_LEGS);
  }

  /** Turns every leg over. */
  reverse(): void {
    this.take(this.legs.map((leg) => ({ ...leg, quantity: -leg.quantity })));
    const { held } = this.bench.context;
    this.bench.context.held = held === 0 ? 0 : -held;
  }

  /** Lets all of it go. */
  clear(): void {
    this.take([]);
    this.bench.context.held = 0;
  }

  /** Makes a leg more or less; what comes to nothing goes. */
  change(at: number, by: number): void {
    this.take(
      this.legs.flatMap((leg, i) => {
        const quantity = leg.quantity + (i === at ? by : 0);
        return quantity === 0 ? [] : [{ ...leg, quantity }];
      }),
    );
  }

  /** The legs so many strikes on; null where they cannot go there. */
  alongStrikes(by: number): NamedLeg[] | null {
    return alongStrikes(this.legs, this.slices, by);
  }

  /** The legs, or one of them, in the next expiry or the one before; null where there is none. */
  rolled(by: 1 | -1, at?: number): NamedLeg[] | null {
    return rolled(this.legs, this.slices, by, at);
  }

  /** The legs with half of one on the next strike; null where it cannot be halved. */
  split(at: number): NamedLeg[] | null {
    return this.legs.length < MOST_LEGS ? split(this.legs, this.slices, at) : null;
  }

  /** The legs times a factor; null where they would not be whole. */
  scaled(factor: number): NamedLeg[] | null {
    return scaled(this.legs, factor, MOST_QUANTITY);
  }

  /**
   * Begins to drag a leg.
   *
   * @returns what takes it to a price, from where it began, and what lets it go
   */
  drag(at: number): { to: (price: number, isAlone: boolean) => void; end: () => void } {
    const { legs, slices } = this;
    this.isDragged = true;
    return {
      to: (price, isAlone) => this.take(withStrike(legs, slices, at, price, isAlone)),
      end: () => (this.isDragged = false),
    };
  }

  /**
   * Begins to drag all legs.
   *
   * @returns what takes them so far from where they began as their strikes allow, and what lets them go
   */
  dragAll(): { by: (distance: number) => void; end: () => void } {
    const { legs, slices } = this;
    this.isDragged = true;
    return { by: (distance) => this.take(movedBy(legs, slices, distance)), end: () => (this.isDragged = false) };
  }

  /** A leg one strike on. */
  nudge(at: number, by: number, isAlone: boolean): void {
    const leg = this.legs[at]!;
    const alone = alongStrikes([leg], this.slices, by);
    if (alone) this.take(withStrike(this.legs, this.slices, at, alone[0]!.strike, isAlone));
  }

  /** The underlying in the amount that makes delta zero, in its own units, whole ones. */
  readonly neutral = $derived.by(() => {
    const { answer } = this;
    if (!answer) return NaN;
    const ofLegs = answer.evaluation.values.delta - answer.request.held;
    return -Math.round(ofLegs * this.multiplier);
  });

  undo(): void {
    this.restore(this.steps.undo());
  }

  redo(): void {
    this.restore(this.steps.redo());
  }

  private restore(step: Held | null): void {
    if (!step) return;
    this.bench.context.legs = step.legs;
    this.bench.context.held = step.held;
  }

  /** Leaves the scenario. */
  leaveScenario(): void {
    Object.assign(this.params, { days: 0, volPoints: 0, skewPoints: 0 });
  }
}
