import {
  dayOf,
  midsOf,
  nextSession,
  payoffOf,
  payoffOfLegs,
  placeLegs,
  sessionClose,
  yearsBetween,
  type MoveMoment,
  type Settlement,
  type StraddleUsed,
} from '@umwelt/core';
import { straddleOf } from '$lib/structure';
import { Loaded, type Workbench } from '$lib/state';
import type { CloseAhead, FittedSlice } from '$lib/data';
import { comingMoves, type ComingEvent } from './events';
import { namedLaws, presetLevels, unique, zonesOf, type NamedLaw } from './laws';
import type { Work } from '$lib/working/lines';
import { zoneWork } from './work';
import { splitsAfter } from '$lib/data/measures';
import { loadMoves, momentsOf, moveHistory, pricesOf, type KnownMoveRow, type MoveHistory } from './moves';
import { PARAMS, type LawName, type OddsParams } from './params';

/** Closes that are followed one by one; beyond that every fifth, and the expiry. */
const MOST_CLOSES = 25;
const FIRST_CLOSES = 10;
const WEEK = 5;

/** A coming close. */
export interface ComingClose extends CloseAhead {
  day: string;
}

/** What the panels of Odds share. */
export class OddsDesk {
  private readonly params: OddsParams;
  /** What was expected at the end of every session that is held, whichever moment is in view. */
  readonly moves = new Loaded<{ symbol: string; rows: KnownMoveRow[] }>(() => {
    const { current } = this.bench.market;
    const [first, last] = [current?.snapshots[0], current?.snapshots.at(-1)];
    if (!current || !first || !last) return undefined;
    const { symbol } = current;
    return loadMoves(symbol, first.asof, last.asof).then((rows) => ({ symbol, rows }));
  });

  readonly at = $derived.by(() => this.bench.focus.current?.slice ?? -1);
  readonly slice: FittedSlice | null = $derived.by(() => this.bench.snapshot.shown?.snapshot.slices[this.at] ?? null);

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => {
      if (this.at >= 0) return bench.samples.want(this.at);
    });
  }

  /** The price in view, and its day. */
  readonly now = $derived.by(() => {
    const { instant, summary } = this.bench.moment;
    const { calendar } = this.bench.market;
    return { day: Number.isFinite(instant) ? dayOf(calendar, instant) : '', price: summary?.price ?? NaN };
  });

  /** New shares for an old one from a day to the moment in view. */
  readonly splits = $derived.by(() => splitsAfter(this.bench.market.current?.events ?? [], this.now.day));

  /** What was known at the moment in view; null while it is loaded. */
  private readonly moments: readonly MoveMoment[] | null = $derived.by(() => {
    const { current } = this.bench.market;
    const { instant } = this.bench.moment;
    const moves = this.moves.value;
    if (!current || moves?.symbol !== current.symbol) return null;
    const known = moves.rows.filter(({ asof }) => Date.parse(asof) <= instant);
    return momentsOf(known, this.splits);
  });

  /** What became of what was expected. */
  readonly history: MoveHistory | null = $derived.by(() => {
    const { current, calendar } = this.bench.market;
    if (!current || !this.moments) return null;
    const { day } = this.now;
    // Closes after the moment in view are not known yet.
    const isOver = (at: string) => at < day || (at === day && sessionClose(calendar, at) <= this.bench.moment.instant);
    const priceOf = pricesOf(current.history, this.splits);
    const priceAt = (at: string, end: Settlement) => (isOver(at) ? priceOf(at, end) : NaN);
    const { stepKind, moveMeasure } = this.params;
    return moveHistory(calendar, this.moments, stepKind, moveMeasure, priceAt, this.now);
  });

  /** What the last moment of a day expected of one session: its first expiry's move, as its variance is spread evenly. */
  moveOfDay(day: string): number {
    const moment = this.moments?.findLast((one) => one.day === day);
    const front = moment?.expiries.find(({ expiry, sessions }) => expiry > day && sessions > 0);
    return front ? front[this.params.moveMeasure] / Math.sqrt(front.sessions) : NaN;
  }

  /** Vol of the contract in focus at the quote in use. */
  readonly ownVol = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { current: focus } = this.bench.focus;
    if (!shown || !focus) return NaN;
    const values = shown.values[focus.slice]!;
    return (focus.side === 'call' ? values.callVols : values.putVols)[shown.quotes][focus.index]!;
  });

  /** The laws that are chosen. */
  readonly laws: NamedLaw[] = $derived.by(() => this.lawsAt(this.params.laws, this.at));

  lawsAt(names: readonly LawName[], at: number): NamedLaw[] {
    const { shown } = this.bench.snapshot;
    const fit = shown?.snapshot.slices[at]?.fit;
    if (!shown || !fit) return [];
    const ownVol = at === this.at ? this.ownVol : NaN;
    return namedLaws(names, fit, (name) => this.bench.samples.choiceAt(name, at), ownVol, this.bench.samples.of(at));
  }

  /** Levels of the structure: break-evens of the picked legs, or of the contract in focus. */
  readonly structureLevels: readonly number[] = $derived.by(() => {
    const { shown } = this.bench.snapshot;
    const { current: focus } = this.bench.focus;
    const { context } = this.bench;
    if (!shown || !focus) return [];
    if (context.legs.length > 0) {
      const placed = placeLegs(shown.snapshot, context.legs);
      const payoff = placed && payoffOfLegs(shown.snapshot, placed);
      if (payoff) return unique([...payoff.breakEvens, ...context.legs.map(({ strike }) => strike)]);
    }
    const slice = shown.snapshot.slices[focus.slice]!;
    const mid = midsOf(slice[focus.side])[focus.index]!;
    const sign = focus.side === 'call' ? 1 : -1;
    const { breakEvens } = payoffOf([{ quantity: 1, sign, strike: focus.strike }], mid);
    return Number.isFinite(mid) ? [focus.strike, ...breakEvens] : [focus.strike];
  });

  /** Levels of the zones of an expiry. */
  levelsAt(slice: FittedSlice): number[] {
    return presetLevels(this.params.preset, slice.fit, this.now.price, this.params.levels, this.structureLevels);
  }
  readonly levels: number[] = $derived.by(() => (this.slice ? this.levelsAt(this.slice) : []));

  /** Zones of the expiry in focus by law. */
  readonly zones = $derived.by(() => {
    const forward = this.slice?.fit.forward ?? NaN;
    return this.laws.map((one) => ({ ...one, zones: zonesOf(one.law, forward, this.levels) }));
  });

  /** How the odds of a zone of the expiry in focus come about by a law; null where it has none. */
  zoneWork(name: LawName, i: number): Work | null {
    const used = this.zones.find((one) => one.name === name);
    const zone = used?.zones[i];
    if (!used?.law || !zone || !this.slice) return null;
    const others = this.zones.flatMap((one) =>
      one.zones[i] ? [{ name: one.name, odds: one.zones[i].probability }] : [],
    );
    return zoneWork(zone, this.slice.fit, used, others, this.bench.market.decimals);
  }

  /** Announcements ahead of the moment that is shown, with what they are priced to move. */
  readonly events: readonly ComingEvent[] = $derived.by(() => {
    const { current, calendar } = this.bench.market;
    const { snapshot: shownSnapshot, quoted: shownExpiries } = this.bench.snapshot;
    if (!current || !shownSnapshot) return [];
    return comingMoves(current.events, current.snapshots, calendar, shownSnapshot.instant, shownExpiries);
  });

  /** Moves a level; the levels are then typed ones. */
  setLevel(i: number, level: number): void {
    const levels = this.levels.with(i, level);
    this.params.preset = 'typed';
    this.params.levels = levels;
  }

  /** The straddles that the expected move of an expiry is made of. */
  straddleOf(slice: FittedSlice): StraddleUsed | null {
    const { shown } = this.bench.snapshot;
    return shown && straddleOf(shown, slice, this.params.straddleChoice);
  }

  /** Closes that come before the expiry in focus, and the expiry. */
  readonly closes: readonly ComingClose[] = $derived.by(() => {
    const { calendar } = this.bench.market;
    const { shown } = this.bench.snapshot;
    if (!shown || !this.slice || !(this.slice.fit.years > 0)) return [];
    const { expiry, fit } = this.slice;
    const { instant } = shown.snapshot;
    const all: ComingClose[] = [];
    // Tomorrow's close is the first: what is left of today is no day.
    let day = nextSession(calendar, dayOf(calendar, instant));
    for (; day < expiry; day = nextSession(calendar, day)) {
      all.push({ day, years: yearsBetween(instant, sessionClose(calendar, day)), sessions: all.length + 1 });
    }
    all.push({ day: expiry, years: fit.years, sessions: fit.sessions });
    if (all.length <= MOST_CLOSES) return all;
    return all.filter((_, i) => i < FIRST_CLOSES || (i + 1) % WEEK === 0 || i === all.length - 1);
  });
}
