import { DAYS_PER_YEAR } from '@umwelt/core';
import { evaluateStructure, type StructureAnswer, type StructureRequest } from '$lib/data';
import { Latest } from '$lib/data/latest';
import { Loaded, type Valued, type Workbench } from '$lib/state';
import { aroundLegs, legWords } from '$lib/structure';
import { whenReleased } from '$lib/ui';
import { Hand } from './hand.svelte';
import { datesOf, depthOf, expiriesOf, mapMoments, scenarioOf } from './asked';
import { PARAMS, type StructureParams } from './params';

/** An answer with what was asked. */
export interface Evaluated extends StructureAnswer {
  request: StructureRequest;
  /** What stands beside, in the same scenario. */
  beside: StructureAnswer | null;
  shown: Valued;
}

/** What is left out where only the facts are wanted. */
const FACTS_ALONE = { along: 'price', hasLegs: false, hasHalf: false, hasEvens: false, tied: 0 } as const;
/** How long nothing has moved when a hand is at rest. */
const REST_MS = 200;
/** The least time between numbers that follow a hand. */
const READ_MS = 100;
/** Break-evens that are followed. */
const MOST_TRACED = 400;
/** What the panels of Structure share: the legs in hand, the scenario, and what the worker says of them. */
export class StructureDesk {
  readonly params: StructureParams;
  /** What is drawn. */
  answer = $state.raw<Evaluated | null>(null);
  /** What numbers tell: while a hand moves they follow no more often than they can be read, so that what is drawn keeps up. */
  told = $state.raw<Evaluated | null>(null);
  private telling: ReturnType<typeof setTimeout> | undefined;
  problem = $state<string | null>(null);
  /** One request is under way at a time, so that a slider never runs ahead of its answers. */
  private readonly latest = new Latest<Evaluated | null>(
    (answer) => {
      this.problem = null;
      // What comes late is of no use once another underlying is in view, or no leg in hand.
      if (!answer || !this.request || answer.shown.snapshot.symbol !== this.bench.context.symbol) return;
      this.answer = answer;
      this.tell();
      this.follow(answer);
    },
    (problem) => (this.problem = problem),
  );
  /** Where break-evens on the date of the scenario have been since it was left as it is. */
  trace = $state.raw<readonly number[]>([]);
  private traced = '';
  /** The market as it is, beside which a scenario stands. */
  private readonly stillAsked = new Loaded(() => {
    const { shown } = this.bench.snapshot;
    if (!this.isMoved || !shown || !this.given) return null;
    const still = { moments: [], depth: 'values', scenario: {}, move: 0 } as const;
    const request: StructureRequest = { ...this.given, ...FACTS_ALONE, ...still };
    return evaluateStructure(shown.snapshot, request, shown.terms, shown.quotes);
  });
  readonly hand: Hand;

  /** While a hand moves something, and a moment longer: what is drawn then need not be laid out anew. */
  isMoving = $state(false);

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    this.hand = new Hand(bench);
    $effect(() => this.latest.stop);
    $effect(() => () => clearTimeout(this.telling));
    let isFirst = true;
    $effect(() => {
      const { axisFrom, axisTo } = this.params;
      void [Object.values(this.thought), axisFrom, axisTo, bench.context.legs];
      if (isFirst) {
        isFirst = false;
        return;
      }
      this.isMoving = true;
      // A hand that rests with the pointer pressed goes on in a moment.
      let forget = () => {};
      const timer = setTimeout(() => (forget = whenReleased(() => (this.isMoving = false))), REST_MS);
      return () => {
        clearTimeout(timer);
        forget();
      };
    });
    $effect(() => {
      const { shown } = bench.snapshot;
      const { request, besideRequest } = this;
      if (!shown || !request) this.answer = this.told = null;
      else {
        this.latest.ask(async () => {
          const told = (asked: StructureRequest) => evaluateStructure(shown.snapshot, asked, shown.terms, shown.quotes);
          const [found, beside] = await Promise.all([told(request), besideRequest && told(besideRequest)]);
          return found && { ...found, request, beside, shown };
        });
      }
    });
  }

  private tell(): void {
    const tell = () => {
      this.telling = undefined;
      this.told = this.answer;
    };
    if (this.isMoving && this.told) this.telling ??= setTimeout(tell, READ_MS);
    else {
      clearTimeout(this.telling);
      tell();
    }
  }

  /** Follows break-evens as a scenario is moved; other legs begin anew. */
  private follow({ request, evaluation, evens, shown }: Evaluated): void {
    const { legs, held, hasEvens } = request;
    const traced = JSON.stringify([shown.snapshot.instant, legs, held, evaluation.entry]);
    const before = hasEvens && traced === this.traced ? this.trace : [];
    this.traced = traced;
    this.trace = hasEvens ? [...before, ...evens].slice(-MOST_TRACED) : [];
  }

  readonly multiplier = $derived.by(() => this.bench.market.underlying?.multiplier ?? 1);

  /** What is said while there is no answer. */
  readonly waiting = $derived.by(() => {
    const problem = this.problem ?? this.hand.problem ?? this.bench.problem;
    if (problem) return problem;
    if (this.hand.missing) return `${legWords(this.hand.missing)} is not listed at this moment.`;
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
  private readonly years: readonly number[] = $derived.by(() => this.hand.yearsOf(this.hand.placed ?? []));

  /** Years to the first of them; 0 without any. */
  private readonly horizon = $derived.by(() => (this.years.length > 0 ? Math.min(...this.years) : 0));

  readonly horizonDays = $derived.by(() => this.horizon * DAYS_PER_YEAR);

  /** Days of the scenario: none beyond the horizon. */
  readonly days = $derived.by(() => Math.min(this.params.days, this.horizonDays));

  /** What is thought to happen, as the address says it. */
  private readonly thought = $derived.by(() => {
    const { days, volPoints, skewPoints, volShifts, movePercent, ratePoints } = this.params;
    return { days, volPoints, skewPoints, movePercent, ratePoints, ...volShifts };
  });

  readonly isMoved = $derived.by(() => Object.values(this.thought).some((by) => by !== 0));

  /** Expiries of the legs, in order of time. */
  readonly expiries = $derived.by(() => expiriesOf(this.hand.placed ?? [], this.years));

  /** The market as it is, where the scenario is another. */
  readonly still = $derived.by(() => (this.isMoved ? (this.stillAsked.value?.evaluation ?? null) : null));

  /** What is known to come before the last expiry of the legs. */
  private readonly around = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { current, calendar } = this.bench.market;
    if (!shown || !current || this.years.length === 0) return null;
    return aroundLegs(current.events, calendar, shown.snapshot.instant, this.years);
  });

  readonly announced = $derived.by(() => this.around?.announced ?? []);

  /** What is asked whatever the scenario. */
  private readonly given = $derived.by(() => {
    if (!this.around || !this.hand.placed || !(this.horizon > 0)) return null;
    return {
      legs: this.hand.placed,
      others: this.hand.others,
      ...{
        held: this.bench.context.held / this.multiplier,
        // A share of the address is no object that the worker can be sent.
        fill: typeof this.params.fill === 'string' ? this.params.fill : { ...this.params.fill },
        fee: this.params.fee / this.multiplier,
        basis: this.bench.context.basis,
      },
      events: this.around.events,
      dividends: this.around.dividends,
      ends: [0, 0] as const,
    };
  });

  /** Moments of the curves but for the scenario's, in years. */
  readonly dates = $derived.by(() => datesOf(this.params.dates, this.horizon));

  private readonly request: StructureRequest | null = $derived.by(() => {
    if (!this.given) return null;
    const { drawn, pictured, movePercent, axisFrom, axisTo } = this.params;
    const elapsed = this.days / DAYS_PER_YEAR;
    const isOnTheWay = elapsed > 0 && elapsed < this.horizon;
    const dated = [...this.dates, ...(isOnTheWay ? [elapsed] : [])];
    const moments = pictured === 'map' ? mapMoments(this.horizon) : dated;
    const along = pictured === 'vol' ? 'vol' : 'price';
    return {
      ...this.given,
      scenario: scenarioOf(this.params, elapsed, this.expiries),
      move: movePercent / 100,
      moments,
      along,
      ends: [axisFrom, axisTo],
      hasEvens: this.isMoved && pictured === 'price',
      hasHalf: !this.isMoving,
      hasLegs: pictured === 'legs',
      tied: this.params.tied,
      depth: depthOf(drawn),
    };
  });

  /** What is asked of what stands beside, in the same scenario; null where nothing does. */
  private readonly besideRequest: StructureRequest | null = $derived.by(() => {
    const legs = this.hand.place(this.params.before);
    if (!this.request || !legs || legs.length === 0) return null;
    const years = Math.min(...this.hand.yearsOf(legs));
    const { hasHalf } = this.request;
    return { ...this.request, ...FACTS_ALONE, hasHalf, legs, held: 0, moments: [0, years] };
  });

  /** What stands beside, with what the worker says of it. */
  readonly before = $derived.by(() => this.answer?.beside ?? null);

  /** The underlying in the amount that makes delta zero, in its own units, whole ones. */
  readonly neutral = $derived.by(() => {
    const { answer } = this;
    if (!answer) return NaN;
    const ofLegs = answer.evaluation.values.delta - answer.request.held;
    return -Math.round(ofLegs * this.multiplier);
  });

  /** Leaves the scenario. */
  leaveScenario(): void {
    Object.assign(this.params, { days: 0, volPoints: 0, skewPoints: 0, volShifts: {}, movePercent: 0, ratePoints: 0 });
  }
}
