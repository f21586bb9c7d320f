import { riskTree, type Numeraire, type RiskLevel, type RiskNode } from '@umwelt/core';
import { call } from '$lib/api/call';
import {
  heldLegOf,
  loadBooks,
  type Book,
  type Booked,
  type Position,
  type PositionDetail,
  type RiskLeg,
  type Scenario,
  type Worth,
} from '$lib/book';
import { Loaded, problemOf, type Workbench } from '$lib/state';
import { notify } from '$lib/ui';
import { PARAMS, type BookParams, type Reach } from './params';

/** Moves of the price and shifts of vol, by how far they go. */
const AXES: Record<Reach, { moves: number[]; volShifts: number[] }> = {
  usual: {
    moves: [-0.1, -0.07, -0.05, -0.03, 0, 0.03, 0.05, 0.07, 0.1],
    volShifts: [0.12, 0.08, 0.04, 0, -0.02, -0.04, -0.06],
  },
  gaps: {
    moves: [-0.4, -0.3, -0.2, -0.1, 0, 0.1, 0.2, 0.3, 0.4],
    volShifts: [0.4, 0.25, 0.15, 0, -0.05, -0.1],
  },
};
const DAY_MS = 86_400_000;

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
  /** Counted up with each change of a book. */
  private edition = $state(0);
  /** Why the last change was not made. */
  refusal = $state<string | null>(null);

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    this.booksAsked = new Loaded((signal) => {
      void this.edition;
      void bench.market.edition;
      return loadBooks(signal);
    });
    this.worthAsked = new Loaded((signal) => {
      const { book } = this;
      void this.edition;
      void bench.market.edition;
      const query = { ...this.moments, by: this.params.worth, ...(this.beta && { beta: this.beta }) };
      return book ? call('GET /books/{id}/worth', { path: { id: book.id }, query, signal }) : null;
    });
    this.scenarioAsked = new Loaded((signal) => {
      const { worth, book } = this;
      const { reach, gridScale, gridAhead } = this.params;
      if (!worth || !book) return null;
      const at = new Date(Date.parse(worth.asof) + gridAhead * DAY_MS).toISOString();
      const body = { ...AXES[reach], volScale: gridScale, asof: worth.asof, at, ...(this.beta && { beta: this.beta }) };
      return call('POST /books/{id}/scenario', { path: { id: book.id }, body, signal });
    });
    this.detailAsked = new Loaded((signal) => {
      const { positionId, below, worth } = this.params;
      void this.edition;
      const isKnown = this.worth?.positions.some(({ id }) => id === positionId);
      if (!isKnown || below === 'journal') return null;
      const query = { ...this.moments, by: worth };
      return call('GET /positions/{id}', { path: { id: positionId }, query, signal });
    });
  }

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
  readonly symbols: readonly string[] = $derived.by(() =>
    [...new Set(this.legs.map(({ contract }) => contract.symbol))].sort(),
  );

  private readonly numeraire: Numeraire | null = $derived.by(() => {
    const { told } = this.params;
    const { beta, legs } = this;
    const base = legs.find(({ contract }) => contract.symbol === (beta ?? told));
    if (beta !== null) {
      const price = base?.price ?? 1;
      return { price, ratioOf: (leg) => ((leg as RiskLeg).row.beta ?? 1) * (leg.price / price) };
    }
    if (!base) return null;
    const own = base.row.ratio ?? 1;
    return {
      price: base.price,
      ratioOf: (leg) =>
        leg.family === base.family ? ((leg as RiskLeg).row.ratio ?? own) / own : leg.price / base.price,
    };
  });

  /** The book taken apart. */
  readonly tree: RiskNode | null = $derived.by(() =>
    this.worth ? riskTree(this.legs, LEVELS[this.params.part], this.numeraire) : null,
  );

  /** Parts in view, each with how deep it lies: those whose whole is opened. */
  readonly rows: readonly { node: RiskNode; depth: number; isOpen: boolean }[] = $derived.by(() => {
    const open = new Set(this.params.open);
    const rows: { node: RiskNode; depth: number; isOpen: boolean }[] = [];
    const visit = (node: RiskNode, depth: number) => {
      const isOpen = open.has(node.key);
      rows.push({ node, depth, isOpen });
      if (isOpen) for (const part of node.parts) visit(part, depth + 1);
    };
    for (const family of this.tree?.parts ?? []) visit(family, 0);
    return rows;
  });

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
      this.edition++;
      notify(words);
      return true;
    } catch (error) {
      this.refusal = problemOf(error);
      return false;
    }
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
