import {
  BASES,
  calendarById,
  expiryName,
  isSameExpiry,
  REASONS,
  type Basis,
  type BasisChoice,
  type ExpiryFit,
  type ExpiryId,
  type OptionId,
  type Sample,
} from '@umwelt/core';
import { getContext, setContext, untrack } from 'svelte';
import { drawSample, forgetSnapshots, prepareSnapshot, refitSnapshot, valueSnapshot } from '$lib/data/client';
import { choiceOf, type PastTerms, type PricingTerms } from '$lib/data/pricing';
import type { LoadedSnapshot } from '$lib/data/snapshot';
import {
  forgetLoaded,
  loadMarket,
  loadSnapshot,
  loadUniverse,
  sendBorrowing,
  sendVerdict,
  type BorrowingRequest,
  type VerdictRequest,
  type Market,
  type UniverseRow,
  hasBrought,
  isRunning,
  loadTasks,
  type Task,
} from '$lib/data/api';
import { decimalsOf } from '$lib/formats/figures';
import { addToPast, forgetPast } from '$lib/film/client';
import { Film } from '$lib/film/film.svelte';
import type { Frame, KnownExpiry } from '$lib/film/frame';
import { closeUpOf } from '$lib/working/close-up';
import { contractWork } from '$lib/working/contract';
import type { Work } from '$lib/working/lines';
import { DEFAULT_CONTEXT, writeContext, type Context } from '$lib/address';
import { moveExpiry, moveStrike, namedExpiries, resolveFocus } from '$lib/data/focus';
import { LiveFeed } from './live.svelte';
import { Player } from './player.svelte';
import { pricingTerms, type PricingAsked } from './pricing';
import { barsOf, ivRankAt, lastBarIndex, momentIndex, sessionStops, stepAlong, valueOf } from '$lib/data/measures';
import type { Valued } from '$lib/data/valued';

const GHOST_SESSIONS = 20;
/** Listed strikes either side of the forward that the film brings at least: another distance asks for nothing new. */
const MOST_STEPS = 10;
const BY_HAND = REASONS.indexOf('by-hand');

/** What a verdict is about. */
type Judged = ExpiryId & Pick<VerdictRequest, 'strike' | 'side'>;

/** What of the focus changes. */
export type FocusChange = (ExpiryId | { expiry?: never; settlement?: never }) &
  Partial<Pick<OptionId, 'strike' | 'side'>>;
/** Idle delay before what may be wanted next is loaded. */
const REST_MS = 120;
const LOOK_OFTEN_MS = 700;
const LOOK_SELDOM_MS = 15_000;

/** What the whole interface shows, and what moves it. One per page, made by the layout. */
export class Workbench {
  context = $state<Context>({ ...DEFAULT_CONTEXT });
  /** The contract under the pointer, which is lit everywhere while it is there. */
  pointed = $state.raw<OptionId | null>(null);
  universe = $state.raw<UniverseRow[] | null>(null);
  market = $state.raw<Market | null>(null);
  valued = $state.raw<Valued | null>(null);
  ghost = $state.raw<LoadedSnapshot | null>(null);
  problem = $state<string | null>(null);
  /** Raised when the data have changed, so that everything is loaded anew; views that load for themselves depend on it. */
  edition = $state(0);
  /** Long work, the latest first. */
  tasks = $state.raw<Task[]>([]);
  readonly feed = new LiveFeed(() => this.reload());
  /** The working that is open; null for none. */
  work = $state.raw<Work | null>(null);
  /** Whether the view in sight shows contracts; the layout knows. */
  showsContract = false;
  /** Whether the page can be seen; hidden it listens to no feed. */
  private isVisible = $state(true);
  /** Verdicts that the server has not answered yet, and the last of them. */
  private judgements = 0;
  private lastSent: Promise<void> = Promise.resolve();
  /** Raised when a task was begun, so that they are looked at now. */
  private taskLooks = $state(0);
  /** Curves of the past, without their quotes; loaded while a view wants them. */
  readonly film = new Film({ add: addToPast, forget: forgetPast });
  /** Views that can be drawn from curves alone: while there are any, playing need not wait for quotes. */
  private filmWanters = $state(0);
  readonly isFilmWanted = $derived(this.filmWanters > 0);
  readonly player = new Player(this);

  readonly underlying = $derived(this.universe?.find((row) => row.symbol === this.context.symbol) ?? null);
  /** Decimals that prices are written with: those of the tick, two at least. */
  readonly decimals = $derived(Math.max(2, decimalsOf(this.underlying?.tick)));
  readonly calendar = $derived(calendarById(this.underlying?.calendar));
  /** Markets of another symbol are of no use while the new one loads. */
  readonly current = $derived(this.market?.symbol === this.context.symbol ? this.market : null);
  readonly index = $derived(this.current ? momentIndex(this.current.snapshots, this.context.asof) : -1);
  /** Where a step leads: the last moment of each session. */
  readonly stops = $derived(this.current ? sessionStops(this.calendar, this.current.snapshots) : []);
  /** The moment in view as it is held. */
  readonly stored = $derived(this.current?.snapshots[this.index] ?? null);
  /** The market of the feed, where the latest moment is in view and the feed is further on than what is held. */
  readonly live = $derived.by(() => {
    const { snapshot } = this.feed;
    if (this.context.asof !== null || snapshot?.symbol !== this.context.symbol) return null;
    return !this.stored || snapshot.instant >= Date.parse(this.stored.asof) ? snapshot : null;
  });
  /** The curves of the moment in view while it plays from curves alone; null at rest, when its quotes are shown. */
  readonly frame: Frame | null = $derived(
    this.isFilmWanted && this.player.isPlaying ? this.film.at(this.context.symbol, this.stored?.asof) : null,
  );
  /** Measures of the moment in view. */
  readonly summary = $derived(this.live?.measures ?? this.stored);
  readonly rank = $derived.by(() => {
    if (!this.current || this.index < 0) return null;
    const { snapshots } = this.current;
    if (!this.live) return ivRankAt(snapshots, this.stops, this.index);
    return ivRankAt([...snapshots, this.live.measures], this.stops, snapshots.length);
  });
  readonly instant = $derived(this.summary ? Date.parse(this.summary.asof) : NaN);
  readonly lastBar = $derived(
    this.current && this.summary ? lastBarIndex(this.calendar, this.current.history, this.instant) : -1,
  );
  /** Bars without the steps of dividends and splits, whichever moment is in view. */
  readonly bars = $derived(this.current ? barsOf(this.current.history, this.current.events) : null);
  /** Change of the price from the close before, as a share. */
  readonly change = $derived((this.summary?.price ?? NaN) / valueOf(this.current?.history[this.lastBar], 'close') - 1);
  readonly ghostIndex = $derived(
    this.current && this.context.ghost ? momentIndex(this.current.snapshots, this.context.ghost) : -1,
  );
  /** What can be shown: values of another symbol are of no use while the new one loads. */
  readonly shown = $derived(this.valued?.snapshot.symbol === this.context.symbol ? this.valued : null);
  /** The ghost of what is in view. */
  readonly shownGhost = $derived(this.ghost?.symbol === this.context.symbol ? this.ghost : null);
  /** The last bar of the moment whose quotes are shown, which rests while curves play. */
  readonly shownBar = $derived(
    this.shown && this.current ? lastBarIndex(this.calendar, this.current.history, this.shown.snapshot.instant) : -1,
  );
  /** The expiries of the moment whose quotes are shown. */
  readonly shownExpiries: readonly ExpiryFit[] = $derived(this.shown?.snapshot.slices.map(({ fit }) => fit) ?? []);
  /** The expiries in view: those that play, or those whose quotes are shown. */
  readonly expiries: readonly KnownExpiry[] = $derived(this.frame?.expiries ?? this.shownExpiries);
  /** Names of the expiries in view that the skew leaves out. */
  readonly hidden = $derived(namedExpiries(this.expiries, this.context.hidden));
  /** The curves of the whole span while it plays, which the axes are to hold; none at rest. */
  readonly played: readonly Frame[] = $derived.by(() => {
    if (!this.player.isPlaying || !this.current) return [];
    const { symbol, snapshots } = this.current;
    return this.film.of(
      symbol,
      this.player.span.map((stop) => snapshots[stop]!.asof),
    );
  });
  /** The snapshot that is shown: the same one while only its values change, and what depends on it with it. */
  readonly shownSnapshot = $derived(this.shown?.snapshot ?? null);
  readonly focus = $derived(this.shownSnapshot ? resolveFocus(this.shownSnapshot, this.context) : null);
  /** What is lit: the contract pointed at, else the focus. */
  readonly lit = $derived(
    this.shownSnapshot && this.pointed ? resolveFocus(this.shownSnapshot, this.pointed) : this.focus,
  );
  /** What the address says of the bases. */
  private readonly pricingAsked: PricingAsked = $derived.by(() => {
    const { manual, realizedBy, realizedWindow, pastLaw, drift } = this.context;
    return { manual: { ...manual }, realizedBy, realizedWindow, pastLaw, drift };
  });
  /** Paths of the past to the expiries that something wants them of, by position in what is shown. */
  private samples = $state.raw<{ of: PricingTerms | null; by: Readonly<Record<number, Sample | null>> }>({
    of: null,
    by: {},
  });
  readonly query = $derived(writeContext(this.context));

  constructor() {
    $effect(() => {
      void this.edition;
      return this.follow(loadUniverse(null), (rows) => this.takeUniverse(rows));
    });
    $effect(() => {
      void this.edition;
      const symbol = this.underlying?.symbol;
      if (symbol) return this.follow(loadMarket(symbol), (market) => (this.market = market));
    });
    $effect(() => this.followSnapshot());
    $effect(() => this.followNeighbours());
    $effect(() => this.followBases());
    $effect(() => this.followGhost());
    $effect(() => this.followSample());
    $effect(() => this.player.run());
    $effect(() => {
      if (this.isFilmWanted && this.current) return this.followFilm();
    });
    $effect(() => this.followTasks());
    $effect(() => (this.isVisible ? this.feed.listen(this.context.symbol) : undefined));
    $effect(() => {
      const see = () => (this.isVisible = document.visibilityState === 'visible');
      document.addEventListener('visibilitychange', see);
      see();
      return () => document.removeEventListener('visibilitychange', see);
    });
  }

  /** Takes the answer of a request, unless something newer has been asked meanwhile. */
  private follow<T>(request: Promise<T>, take: (answer: T) => void): () => void {
    let isCurrent = true;
    request.then(
      (answer) => {
        if (!isCurrent) return;
        this.problem = null;
        take(answer);
      },
      (error: unknown) => {
        if (isCurrent) this.problem = error instanceof Error ? error.message : String(error);
      },
    );
    return () => (isCurrent = false);
  }

  /**
   * Wants the curves of the past, until what it gives back is called: meant for an effect. One view may come before the one
   * that it replaces has gone.
   */
  wantFilm(): () => void {
    untrack(() => this.filmWanters++);
    return () => untrack(() => this.filmWanters--);
  }

  /** Loads everything anew; what is shown stays until the new is there. */
  reload(): void {
    forgetLoaded();
    forgetSnapshots();
    this.film.forget();
    this.edition++;
  }

  /**
   * Sets a contract aside from the moment in view on, or takes it back into use; without a strike its whole expiry.
   * Everything that depends on it is loaded anew.
   */
  async judge(what: Judged, verdict: VerdictRequest['verdict']): Promise<void> {
    if (!this.current || !this.stored || this.live) return;
    const { symbol } = this.current;
    const { asof } = this.stored;
    const wasAside = this.isAsideByHand(what);
    await this.show(what, verdict);
    // One after the other, in the order in which they were said; everything is loaded anew after the last.
    this.judgements++;
    const sent = this.lastSent.then(() => sendVerdict(symbol, { ...what, asof, verdict, wasAside, lasting: true }));
    this.lastSent = sent.catch(() => undefined);
    try {
      await sent;
      this.problem = null;
    } catch (error) {
      this.problem = error instanceof Error ? error.message : String(error);
    }
    if (--this.judgements === 0) this.reload();
  }

  private isAsideByHand({ expiry, settlement, strike, side }: Judged): boolean {
    const slices = this.shown?.snapshot.slices ?? [];
    const fit = slices.find((one) => isSameExpiry(one, { expiry, settlement }))?.fit;
    if (!fit || strike === undefined) return fit?.expiryAside === 'by-hand';
    return fit.aside.some((one) => one.strike === strike && one.side === side && one.reason === BY_HAND);
  }

  /** Shows at once what a verdict does to the moment in view: the server derives everything anew meanwhile. */
  private async show({ expiry, settlement, strike, side }: Judged, verdict: VerdictRequest['verdict']): Promise<void> {
    const { shown } = this;
    const at = shown?.snapshot.slices.findIndex((one) => isSameExpiry(one, { expiry, settlement })) ?? -1;
    const slice = shown?.snapshot.slices[at];
    if (!shown || !slice || slice.fit.borrowed) return;
    if (strike === undefined || side === undefined) {
      const fit = { ...slice.fit, expiryAside: verdict === 'aside' ? ('by-hand' as const) : null };
      this.valued = {
        ...shown,
        snapshot: { ...shown.snapshot, slices: shown.snapshot.slices.with(at, { ...slice, fit }) },
      };
      return;
    }
    const others = slice.fit.aside.filter((one) => one.strike !== strike || one.side !== side);
    const aside = verdict === 'aside' ? [...others, { strike, side, reason: BY_HAND }] : others;
    const snapshot = await refitSnapshot(shown.snapshot, at, aside);
    if (!snapshot) return;
    const { basis, quotes, terms } = shown;
    const values = await valueSnapshot(snapshot, basis, terms, quotes);
    if (this.shown === shown) this.valued = { ...shown, snapshot, values };
  }

  /**
   * Lets an expiry borrow its curve, or with null gives it its own one back. Everything that depends on it is loaded anew.
   *
   * @throws Error with what is wrong with it
   */
  async borrow(request: BorrowingRequest): Promise<void> {
    if (!this.current) return;
    await sendBorrowing(this.current.symbol, request);
    this.reload();
  }

  /** Lets tasks be looked at, since one was begun. */
  lookAtTasks(): void {
    this.taskLooks++;
  }

  private takeUniverse(rows: UniverseRow[]): void {
    this.universe = rows;
    const isKnown = rows.some((row) => row.symbol === this.context.symbol);
    if (isKnown) return;
    const usual = rows.find((row) => row.kind === 'index') ?? rows[0];
    if (usual) this.context.symbol = usual.symbol;
  }

  private followSnapshot(): (() => void) | undefined {
    const { current, live, stored, underlying, bars, edition } = this;
    const { basis, quotes } = this.context;
    const asked = this.pricingAsked;
    void edition;
    // What plays from curves alone leaves the quotes for when it rests.
    if (this.frame) return;
    const moment = live?.asof ?? stored?.asof;
    if (!current || moment === undefined || !underlying || !bars) return;
    const { symbol, history } = current;
    const { calendar } = this;
    const work = async (): Promise<Valued> => {
      const snapshot = live ?? (await loadSnapshot(symbol, moment));
      const lastBar = lastBarIndex(calendar, history, snapshot.instant);
      const terms = pricingTerms(snapshot, bars, lastBar, asked);
      const values = await valueSnapshot(snapshot, basis, terms, quotes);
      return { snapshot, values, basis, quotes, terms };
    };
    if (live) this.feed.hold();
    const working = work();
    // What the feed has sent meanwhile comes next: a slow page leaves moments out rather than falling behind.
    void working.catch(() => undefined).then(() => this.feed.release());
    return this.follow(working, (valued) => (this.valued = valued));
  }

  /** Fetches the moments before and after the one in view, and lets the worker solve them: a step is likely. */
  private followNeighbours(): void {
    if (!this.current || this.index < 0 || this.frame) return;
    const { symbol, snapshots } = this.current;
    for (const neighbour of [snapshots[this.index + 1], snapshots[this.index - 1]]) {
      // A failure is met when the step is taken.
      if (neighbour)
        loadSnapshot(symbol, neighbour.asof)
          .then(prepareSnapshot)
          .catch(() => undefined);
    }
  }

  /** Lets the worker go through the other bases when what is shown has come to rest: a change of basis is likely. */
  private followBases(): (() => void) | undefined {
    const { shown } = this;
    if (!shown || this.player.isPlaying) return;
    const { snapshot, terms, quotes } = shown;
    // Paths of the past to every expiry are no work to be done unasked.
    const likely = BASES.filter((basis) => basis !== 'realized' || !terms.past);
    let isEnded = false;
    const work = async () => {
      for (const basis of likely) {
        if (isEnded) return;
        await valueSnapshot(snapshot, basis, terms, quotes);
      }
    };
    // A failure is met when the basis is chosen.
    const timer = setTimeout(() => void work().catch(() => undefined), REST_MS);
    return () => {
      isEnded = true;
      clearTimeout(timer);
    };
  }

  /** Paths of the past to the lit expiry, where the odds of `realized` are taken from them. */
  private followSample(): (() => void) | undefined {
    const { shown, lit } = this;
    const past = shown?.terms.past;
    if (!shown || !lit || !past) return;
    return this.drawSample(shown, lit.slice, past);
  }

  /** Draws paths of the past to an expiry of what is shown, whatever the odds of `realized` are: meant for an effect. */
  wantSample(slice: number): (() => void) | undefined {
    const { shown } = this;
    const past = shown && (shown.terms.past ?? shown.terms.usualPast);
    if (!past || !shown.snapshot.slices[slice]) return;
    return this.drawSample(shown, slice, past);
  }

  private drawSample(shown: Valued, slice: number, past: PastTerms): (() => void) | undefined {
    const { terms } = shown;
    if (untrack(() => this.samples.of === terms && slice in this.samples.by)) return;
    return this.follow(drawSample(shown.snapshot, shown.snapshot.slices[slice]!.fit, past), (sample) => {
      const known = this.samples.of === terms ? this.samples.by : {};
      this.samples = { of: terms, by: { ...known, [slice]: sample } };
    });
  }

  /** Paths of the past to an expiry of what is shown; null where none can be drawn, undefined while none are known. */
  sampleOf(slice: number): Sample | null | undefined {
    return this.samples.of !== null && this.samples.of === this.shown?.terms ? this.samples.by[slice] : undefined;
  }

  /** What an expiry of what is shown is valued by under a basis. */
  choiceAt(basis: Basis, slice: number): BasisChoice {
    return choiceOf(basis, this.shown!.terms, slice, this.sampleOf(slice));
  }

  private followGhost(): (() => void) | undefined {
    const summary = this.current?.snapshots[this.ghostIndex];
    if (!this.current || !summary) {
      this.ghost = null;
      return;
    }
    return this.follow(loadSnapshot(this.current.symbol, summary.asof), (snapshot) => (this.ghost = snapshot));
  }

  private followFilm(): () => void {
    const { symbol, snapshots } = this.current!;
    const { stops } = this.player;
    const at = untrack(() => stops.findLastIndex((stop) => stop <= this.index));
    const asofs = stops.map((stop) => snapshots[stop]!.asof);
    const { surface, pairUnit, pairSize, playStep } = this.context;
    // Only pairs in listed strikes have to know which strikes were listed.
    const strikes = surface === 'pairs' && pairUnit === 'steps' ? Math.max(MOST_STEPS, pairSize) : 0;
    return this.film.follow(symbol, asofs, playStep, at, strikes);
  }

  /** Whether what a step has led to is in the picture, so that the next may come. */
  get isDrawn(): boolean {
    return this.isFilmWanted && !this.film.problem
      ? this.frame !== null
      : this.valued?.snapshot.asof === this.stored?.asof;
  }

  /** Looks at the tasks again and again: often while one runs. */
  private followTasks(): () => void {
    void this.taskLooks;
    let timer: ReturnType<typeof setTimeout>;
    let isEnded = false;
    const look = async () => {
      const [now] = await Promise.all([loadTasks(), this.feed.look()]);
      if (isEnded) return;
      if (now) {
        if (hasBrought(this.tasks, now)) this.reload();
        this.tasks = now;
      }
      timer = setTimeout(look, this.tasks.some(isRunning) ? LOOK_OFTEN_MS : LOOK_SELDOM_MS);
    };
    void look();
    return () => {
      isEnded = true;
      clearTimeout(timer);
    };
  }

  /** Goes to a moment by its position. */
  goTo(index: number): void {
    const { snapshots } = this.current ?? { snapshots: [] };
    const summary = snapshots[index];
    if (summary) this.context.asof = index === snapshots.length - 1 ? null : summary.asof;
  }

  /** Steps by sessions, to the last moment of each; false at the end. */
  step(steps: number): boolean {
    return this.stepTo(stepAlong(this.stops, this.index, steps));
  }

  /** Steps by moments held, of which a session may have many; false at the end. */
  stepMoment(steps: number): boolean {
    const last = (this.current?.snapshots.length ?? 0) - 1;
    return this.stepTo(Math.max(0, Math.min(last, this.index + steps)));
  }

  private stepTo(next: number): boolean {
    if (!this.current || next < 0 || next === this.index) return false;
    this.goTo(next);
    return true;
  }

  /** Puts the ghost on a moment by its position, or takes it away. */
  setGhost(index: number | null): void {
    this.context.ghost = index === null ? null : (this.current?.snapshots[index]?.asof ?? null);
  }

  /** Puts the ghost four weeks back, or takes it away. */
  toggleGhost(): void {
    this.setGhost(this.context.ghost ? null : stepAlong(this.stops, this.index, -GHOST_SESSIONS));
  }

  /** Opens another underlying; the focus of the old one means nothing there. */
  choose(symbol: string): void {
    if (symbol === this.context.symbol) return;
    // What has been picked of the one means nothing on another.
    const nowhere = { expiry: null, settlement: null, strike: null, side: null };
    Object.assign(this.context, { symbol, ...nowhere, hidden: [], opened: null, legs: [], levels: [] });
    this.pointed = null;
  }

  /**
   * Opens the working of the lit contract, at a number of it; where a view holds no contract nothing opens.
   *
   * @param basis the one in use unless given
   */
  openWorking(at?: string, basis?: Basis): void {
    const { shown, lit, calendar } = this;
    if (!shown || !lit || !this.showsContract) return;
    const closeUp = closeUpOf(shown, lit, this.sampleOf(lit.slice));
    this.work = contractWork({ shown, focus: lit, closeUp, zone: calendar.zone }, at, basis);
  }

  /** Puts the focus on a contract of what is in view, or on an expiry, a strike or a side of it. */
  setFocus({ expiry, settlement, strike, side }: FocusChange): void {
    if (expiry !== undefined) Object.assign(this.context, { expiry, settlement });
    if (strike !== undefined) this.context.strike = strike;
    if (side !== undefined) this.context.side = side;
  }

  /** Moves the focus along strikes or expiries. */
  move(along: 'strike' | 'expiry', steps: number): void {
    if (!this.shown || !this.focus) return;
    this.pointed = null;
    const moved = along === 'strike' ? moveStrike : moveExpiry;
    this.setFocus(moved(this.shown.snapshot, this.focus, steps));
  }

  flipSide(): void {
    if (!this.focus) return;
    this.pointed = null;
    this.setFocus({ ...this.focus, side: this.focus.side === 'call' ? 'put' : 'call' });
  }

  cycleBasis(): void {
    this.context.basis = BASES[(BASES.indexOf(this.context.basis) + 1) % BASES.length]!;
  }

  /** Shows or leaves out an expiry of the skew. */
  toggleExpiry(expiry: ExpiryId): void {
    const name = expiryName(expiry);
    const hidden = [...this.hidden];
    this.context.hidden = hidden.includes(name) ? hidden.filter((other) => other !== name) : [...hidden, name];
  }

  /** Takes the context of an address, unless it is the one that is shown. */
  take(context: Context): void {
    if (untrack(() => writeContext(context) === writeContext(this.context))) return;
    const symbol = context.symbol ?? untrack(() => this.context.symbol);
    this.context = { ...context, symbol };
  }
}

const KEY = Symbol('workbench');

/** Makes the workbench of a page; called once, by the layout. */
export function provideWorkbench(): Workbench {
  return setContext(KEY, new Workbench());
}

/** The workbench of the page. */
export function useWorkbench(): Workbench {
  return getContext<Workbench>(KEY);
}
