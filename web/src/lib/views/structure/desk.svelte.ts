import {
  DAYS_PER_YEAR,
  FIRST_GREEKS,
  instantAfter,
  placeLegs,
  thirds,
  yearsBetween,
  type Depth,
  type NamedLeg,
  type PlacedLeg,
  type Scenario,
} from '@umwelt/core';
import { evaluateStructure, type StructureAnswer, type StructureRequest } from '$lib/data';
import { announcements, knownDividends } from '$lib/data/events';
import { Latest } from '$lib/data/latest';
import { Loaded, type Valued, type Workbench } from '$lib/state';
import { PARAMS, type Quantity, type StructureParams } from './params';

/** An answer with what was asked. */
export interface Evaluated extends StructureAnswer {
  request: StructureRequest;
  shown: Valued;
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
    const request = { ...this.given, scenario: {}, moments: [], depth: 'values' as const };
    return evaluateStructure(shown.snapshot, request, shown.terms, shown.quotes);
  });

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => {
      const { shown } = bench.snapshot;
      const { request } = this;
      if (!shown || !request) this.answer = null;
      else {
        this.latest.ask(async () => {
          const found = await evaluateStructure(shown.snapshot, request, shown.terms, shown.quotes);
          return found && { ...found, request, shown };
        });
      }
    });
  }

  readonly legs: readonly NamedLeg[] = $derived.by(() => this.bench.context.legs);

  /** Where the legs are listed; null where one of them is not. */
  readonly placed: readonly PlacedLeg[] | null = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    return snapshot && placeLegs(snapshot, this.legs);
  });

  /** Times what amounts of a unit are shown. */
  readonly times = $derived.by(() =>
    this.params.unit === 'money' ? (this.bench.market.underlying?.multiplier ?? 1) : 1,
  );

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

  /** What is asked whatever the scenario. */
  private readonly given = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { current, calendar } = this.bench.market;
    if (!shown || !current || !this.placed || !(this.horizon > 0)) return null;
    const { instant } = shown.snapshot;
    const life = { valued: instant, expires: instantAfter(instant, Math.max(...this.years)) };
    const ahead = announcements(current.events, calendar).filter(({ at }) => at > instant);
    return {
      legs: this.placed,
      ...{ fill: this.params.fill, basis: this.bench.context.basis },
      events: ahead.map(({ at }) => yearsBetween(instant, at)),
      dividends: knownDividends(current.events, life, calendar),
    };
  });

  private readonly request: StructureRequest | null = $derived.by(() => {
    if (!this.given) return null;
    const { volPoints, skewPoints, dynamics, hasEvents, drawn } = this.params;
    const elapsed = this.days / DAYS_PER_YEAR;
    const scenario: Partial<Scenario> = {
      ...{ elapsed, volShift: volPoints / 100, skewShift: skewPoints / 100, dynamics, hasEvents },
    };
    const isOnTheWay = elapsed > 0 && elapsed < this.horizon;
    const moments = [...thirds(0, this.horizon), ...(isOnTheWay ? [elapsed] : [])];
    return { ...this.given, scenario, moments, depth: depthOf(drawn) };
  });

  /** Turns every leg over. */
  reverse(): void {
    this.bench.context.legs = this.legs.map((leg) => ({ ...leg, quantity: -leg.quantity }));
  }

  /** Makes a leg more or less; what comes to nothing goes. */
  change(at: number, by: number): void {
    this.bench.context.legs = this.legs.flatMap((leg, i) => {
      const quantity = leg.quantity + (i === at ? by : 0);
      return quantity === 0 ? [] : [{ ...leg, quantity }];
    });
  }

  /** Leaves the scenario. */
  leaveScenario(): void {
    Object.assign(this.params, { days: 0, volPoints: 0, skewPoints: 0 });
  }
}
