import { riskTree, type RiskLevel, type RiskNode } from '@umwelt/core';
import { call } from '$lib/api/call';
import {
  bookEdition,
  contractOf,
  heldLegOf,
  quoteIn,
  snapshotAt,
  loadBooks,
  type Book,
  type Booked,
  type Explained,
  type Position,
  type PositionDetail,
  type Replay,
  type RiskLeg,
  type BookLeg,
  type Ticket,
  type TicketRow,
  type Scenario,
  type Worth,
} from '$lib/book';
import { Loaded, problemOf, type Workbench } from '$lib/state';
import { notify } from '$lib/ui';
import { PARAMS, type BookParams } from './params';
import { AXES, daysAfter, justBefore, numeraireOf, partRows, symbolsOf, type PartRow } from './parts';

/** Of more positions profits are not drawn day by day. */
const MOST_DRAWN = 40;

const LEVELS: Record<BookParams['part'], readonly RiskLevel[]> = {
  expiry: ['family', 'underlying', 'expiry', 'strike'],
  strike: ['family', 'underlying', 'strike', 'expiry'],
  position: ['family', 'underlying', 'position', 'expiry'],
};

/** What the panels of Book share: the books, what the one in view is worth, its risks, what scenarios would bring. */
export class BookDesk {
  readonly params: BookParams;
  private readonly booksAsked: Loaded<Book[]>;
  private readonly worthAsked: Loaded<Worth>;
  private readonly scenarioAsked: Loaded<Scenario>;
  private readonly detailAsked: Loaded<PositionDetail>;
  private readonly explainedAsked: Loaded<Explained>;
  private readonly replayAsked: Loaded<Replay>;
  private readonly profitsAsked: Loaded<Record<number, readonly (number | null)[]>>;
  /** Why the last change was not made. */
  refusal = $state<string | null>(null);

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    this.booksAsked = new Loaded((signal) => {
      void bookEdition.count;
      void bench.market.edition;
      return loadBooks(signal);
    });
    this.worthAsked = new Loaded((signal) => {
      const { shownId: id } = this;
      void bookEdition.count;
      void bench.market.edition;
      const query = { ...this.moments, by: this.params.worthBy, ...(this.beta && { beta: this.beta }) };
      return id ? call('GET /books/{id}/worth', { path: { id }, query, signal }) : null;
    });
    this.scenarioAsked = new Loaded((signal) => {
      const { worth, shownId: id } = this;
      const { reach, gridScale, gridAhead } = this.params;
      if (!worth || !id) return null;
      const at = daysAfter(worth.asof, gridAhead);
      const body = { ...AXES[reach], volScale: gridScale, asof: worth.asof, at, ...(this.beta && { beta: this.beta }) };
      return call('POST /books/{id}/scenario', { path: { id }, body, signal });
    });
    this.detailAsked = new Loaded((signal) => {
      const { positionId, shownBelow, worthBy } = this.params;
      const isKnown = this.worth?.positions.some(({ id }) => id === positionId);
      if (!isKnown || shownBelow === 'journal') return null;
      const query = { ...this.moments, by: worthBy };
      return call('GET /positions/{id}', { path: { id: positionId }, query, signal });
    });
    this.explainedAsked = new Loaded((signal) => {
      const { span, shownId: id, position } = this;
      const { method, toldAs, worthBy } = this.params;
      if (!span || !id) return null;
      const query = {
        ...span,
        method: method === 'averaged' ? 'averaged' : 'turn',
        by: worthBy === 'curve' ? 'curve' : 'mid',
      } as const;
      if (!position) return call('GET /books/{id}/explain', { path: { id }, query, signal });
      const steps = toldAs === 'days' ? ({ step: 'session' } as const) : {};
      return call('GET /positions/{id}/explain', { path: { id: position.id }, query: { ...query, ...steps }, signal });
    });
    this.profitsAsked = new Loaded((signal) => {
      const { shownId: id, worth } = this;
      const { shownBelow, worthBy: by } = this.params;
      const ids = this.positions.map((one) => one.id);
      if (!id || !worth || shownBelow !== 'positions' || ids.length === 0 || ids.length > MOST_DRAWN) return undefined;
      const query = { ids: ids.join(), to: worth.asof, by: by === 'curve' ? 'curve' : 'mid' } as const;
      return call('GET /books/{id}/profits', { path: { id }, query, signal }).then(({ positions }) =>
        Object.fromEntries(positions.map(({ id: of, profit }) => [of, profit])),
      );
    });
    this.replayAsked = new Loaded((signal) => {
      const { positionId, shownBelow, step, worthBy } = this.params;
      const isKnown = this.worth?.positions.some(({ id }) => id === positionId);
      void bench.market.edition;
      if (shownBelow !== 'replay' || !isKnown) return null;
      const query = { step, by: worthBy === 'curve' ? 'curve' : 'mid' } as const;
      return call('GET /positions/{id}/replay', { path: { id: positionId }, query, signal });
    });
  }

  /** Between which moments a change is explained: of the position in focus, else of the book; null where there are none. */
  private readonly span: { from: string; to: string } | null = $derived.by(() => {
    const { worth, position } = this;
    if (!worth) return null;
    const to = worth.asof;
    const opened = position ? position.opened : this.firstOpened;
    // From just before it, so that what was paid for it counts.
    const entered = opened && justBefore(opened);
    const from = { ghost: worth.ghost ?? worth.closeBefore, close: worth.closeBefore, entry: entered }[
      this.params.explainedSince
    ];
    return from && Date.parse(from) < Date.parse(to) ? { from, to } : null;
  });

  private readonly firstOpened: string | null = $derived.by(() =>
    (this.worth?.positions ?? []).reduce<string | null>(
      (first, { opened }) => (opened !== null && (first === null || opened < first) ? opened : first),
      null,
    ),
  );

  /** The moment in view and the ghost, as requests name them. */
  private readonly moments = $derived.by(() => {
    const { asof, ghost } = this.bench.context;
    return { asof, ghost };
  });

  /** Another underlying whose price moves are told by, with the betas of all others to it. */
  readonly beta: string | null = $derived.by(() => /^beta:(.+)$/.exec(this.params.told ?? '')?.[1] ?? null);

  get books(): readonly Book[] | null {
    return this.booksAsked.value;
  }

  /** The book in view; null where there is none. */
  readonly book: Book | null = $derived.by(() => {
    const books = this.booksAsked.value ?? [];
    return books.find(({ id }) => id === this.params.bookId) ?? books[0] ?? null;
  });

  /** Its number, which stays the same while the book changes; 0 without one. */
  private readonly shownId: number = $derived.by(() => this.book?.id ?? 0);

  get worth(): Worth | null {
    return this.worthAsked.value;
  }

  get problem(): string | null {
    return this.booksAsked.problem ?? this.worthAsked.problem;
  }

  get scenario(): Scenario | null {
    return this.scenarioAsked.value;
  }

  get scenarioProblem(): string | null {
    return this.scenarioAsked.problem;
  }

  get detail(): PositionDetail | null {
    return this.detailAsked.value;
  }

  /** What a position had brought day by day; null where that is not known yet. */
  profitsOf(id: number): readonly (number | null)[] | null {
    return this.profitsAsked.value?.[id] ?? null;
  }

  get explained(): Explained | null {
    return this.explainedAsked.value;
  }

  get explainedProblem(): string | null {
    return this.explainedAsked.problem ?? (this.span ? null : 'There is no change to be explained.');
  }

  get replay(): Replay | null {
    return this.replayAsked.value;
  }

  get replayProblem(): string | null {
    return this.replayAsked.problem;
  }

  readonly hasGhost: boolean = $derived.by(() => this.worth?.ghost != null);

  readonly legs: readonly RiskLeg[] = $derived.by(() => (this.worth?.legs ?? []).map(heldLegOf));

  /** Positions that are shown. */
  readonly positions: readonly Position[] = $derived.by(() => {
    const { shown } = this.params;
    const isOpen = (one: Position) => one.closed === null && one.opened !== null;
    return (this.worth?.positions ?? []).filter((one) =>
      shown === 'all' ? true : shown === 'open' ? isOpen(one) : one.closed !== null,
    );
  });

  readonly position: Position | null = $derived.by(
    () => this.worth?.positions.find(({ id }) => id === this.params.positionId) ?? null,
  );

  /** Underlyings of the book, each with what its price is. */
  readonly symbols: readonly string[] = $derived.by(() => symbolsOf(this.legs));

  private readonly numeraire = $derived.by(() => numeraireOf(this.legs, this.params.told, this.beta));

  /** The book taken apart. */
  readonly tree: RiskNode | null = $derived.by(() =>
    this.worth ? riskTree(this.legs, LEVELS[this.params.part], this.numeraire) : null,
  );

  /** Parts in view: those whose whole is opened. */
  readonly rows: readonly PartRow[] = $derived.by(() => partRows(this.tree, this.params.open));

  toggle(key: string): void {
    const { open } = this.params;
    this.params.open = open.includes(key) ? open.filter((one) => one !== key) : [...open, key];
  }

  choose(id: number): void {
    this.params.positionId = this.params.positionId === id ? 0 : id;
  }

  nameOf(id: number): string {
    return this.worth?.positions.find((one) => one.id === id)?.name ?? String(id);
  }

  /** Makes a change, and says what came of it. */
  async change(work: Promise<Booked>): Promise<boolean> {
    try {
      const { words } = await work;
      this.refusal = null;
      bookEdition.count++;
      notify(words);
      return true;
    } catch (error) {
      this.refusal = problemOf(error);
      return false;
    }
  }

  /** Opens the ticket of a position in view. */
  private ticket(title: string, rows: TicketRow[], more: Partial<Ticket> = {}): void {
    const { detail, worth } = this;
    if (!detail || !worth) return;
    this.bench.dialogs.ticket = {
      ...{ title, symbol: detail.symbol, name: detail.name, positionId: detail.id, asof: worth.asof, rows },
      ...more,
    } satisfies Ticket;
  }

  private readonly heldLegs: readonly BookLeg[] = $derived.by(() =>
    (this.detail?.legs ?? []).filter(({ quantity, missing }) => quantity !== 0 && missing === null),
  );

  private closing(leg: BookLeg): TicketRow {
    const quote = { bid: leg.bid ?? leg.theory ?? NaN, ask: leg.ask ?? leg.theory ?? NaN };
    return { contract: contractOf(leg), quantity: -leg.quantity, ...quote, closes: true };
  }

  /** Trades what is held back: all of it, or one leg. */
  close(leg?: BookLeg): void {
    const legs = leg ? [leg] : this.heldLegs;
    const name = this.detail?.name ?? '';
    this.ticket(
      `Close ${name}`,
      legs.map((one) => this.closing(one)),
      leg ? {} : { words: `${name} was closed` },
    );
  }

  /** Adds trades of one's own. */
  adjust(): void {
    this.ticket(`Adjust ${this.detail?.name ?? ''}`, [], { isByHand: true });
  }

  /** Trades options back and opens them again at the next expiry that is listed, at the nearest strikes. */
  async roll(): Promise<void> {
    const { detail, worth } = this;
    if (!detail || !worth) return;
    const rows: TicketRow[] = [];
    for (const leg of this.heldLegs) {
      const contract = contractOf(leg);
      if ('underlying' in contract) continue;
      const snapshot = await snapshotAt(contract.symbol, worth.asof);
      const next = snapshot?.slices.find((one) => one.expiry > contract.expiry);
      if (!snapshot || !next) continue;
      const away = (strike: number) => Math.abs(strike - contract.strike);
      const strike = [...next.strike].reduce((best, one) => (away(one) < away(best) ? one : best));
      const opened = { ...contract, expiry: next.expiry, settlement: next.settlement, strike };
      rows.push(this.closing(leg), { contract: opened, quantity: leg.quantity, ...quoteIn(snapshot, opened) });
    }
    if (rows.length === 0) {
      this.refusal = 'no later expiry is listed';
      return;
    }
    this.ticket(`Roll ${detail.name}`, rows, { words: `${detail.name} was rolled` });
  }

  /** A sold option is exercised against its seller: it goes at nothing, and the underlying is bought or sold at the strike. */
  assign(leg: BookLeg): void {
    const contract = contractOf(leg);
    if ('underlying' in contract) return;
    const sold = -leg.quantity;
    // Of a future one, of all else as many units as its contract is on.
    const units = sold * (leg.kind === 'future' ? 1 : leg.multiplier) * (contract.side === 'put' ? 1 : -1);
    this.ticket(
      `Assigned early: ${this.detail?.name ?? ''}`,
      [
        { contract, quantity: sold, bid: 0, ask: 0, price: 0, isAssigned: true },
        {
          contract: { symbol: contract.symbol, underlying: true },
          ...{ quantity: units, bid: contract.strike, ask: contract.strike, price: contract.strike },
        },
      ],
      { words: `${contract.strike} ${contract.side} of ${this.detail?.name ?? ''} was assigned` },
    );
  }

  /** A new position, by hand. */
  open(): void {
    const { worth, bench } = this;
    const asof = worth?.asof ?? bench.moment.summary?.asof;
    const symbol = bench.context.symbol ?? '';
    if (!asof) return;
    bench.dialogs.ticket = {
      ...{ title: 'A position by hand', symbol, name: symbol, positionId: null, asof, rows: [], isByHand: true },
    } satisfies Ticket;
  }

  /** Takes the legs of the position in hand, on its underlying. */
  take(): void {
    const { detail } = this;
    if (!detail) return;
    const { bench } = this;
    bench.address.choose(detail.symbol);
    const legs = this.heldLegs.flatMap((leg) => {
      const contract = contractOf(leg);
      return 'underlying' in contract ? [] : [{ ...contract, quantity: leg.quantity }];
    });
    const held = this.heldLegs.reduce((sum, leg) => (leg.expiry === null ? sum + leg.quantity : sum), 0);
    Object.assign(bench.context, { legs, held });
  }

  undo(): void {
    const { book } = this;
    if (book) void this.change(call('POST /books/{id}/undo', { path: { id: book.id } }));
  }

  redo(): void {
    const { book } = this;
    if (book) void this.change(call('POST /books/{id}/redo', { path: { id: book.id } }));
  }
}
