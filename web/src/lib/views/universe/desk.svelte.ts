import { termState } from '@umwelt/core';
import { universeSentence, type Sentence } from '$lib/formats';
import { sortedRows, type DataTable } from '$lib/tables';
import { Loaded, type Workbench } from '$lib/state';
import { columnNamed, FLAGS, type Flag, type ScreenColumn } from '$lib/columns';
import { Lines } from './lines.svelte';
import { askScreen, ScreenValues, type ScreenRow } from './results';
import { bySymbol, eachOnce, familiesOf, flagsOf, liveChange, orderOf, screenAddress, screenTable } from './rows';
import { PARAMS, type UniverseParams } from './params';

/** Sessions of iv30 that are known, of those that ranks are over. */
export const HELD = 'held(iv30, 252)';
export const RANKED_SESSIONS = 252;

/** What is asked for whatever is shown: for the sentence, and for prices that go on. */
const ALWAYS = ['price', 'before', 'price / before - 1', 'iv30', 'hv20.yz', 'iv30 / hv20.yz', 'slope', HELD];

const stateOf = (slope: number | null) => (slope === null ? null : termState(slope));

/** Formulas of the standard errors of measures that have one. */
const ERRORS: Readonly<Record<string, string | undefined>> = {
  iv30: 'iv30error',
  rr25: 'rr25error',
  move: 'moveerror',
};

/** What the Universe works with: its columns, the values of their formulas, and the rows that are left in their order. */
export class ScreenDesk {
  private readonly params: UniverseParams;
  private readonly screening = new Loaded<ScreenValues>(() => {
    const { asof } = this.bench.context;
    const { keep } = this.params;
    const columns = this.asked;
    void this.bench.market.edition;
    return askScreen(asof, { columns, filters: [...keep] }).then((answer) => new ScreenValues(answer));
  });
  readonly values = $derived(this.screening.value);
  readonly problem = $derived(this.screening.problem);
  /** Words of the name and the symbol that are looked for. */
  sought = $state('');
  readonly lines = new Lines();

  readonly columns: readonly ScreenColumn[] = $derived.by(() =>
    this.params.show.flatMap((key) => columnNamed(key) ?? []),
  );
  private readonly asked = $derived.by(() => {
    const shown = this.columns.flatMap(({ formula, look }) => (formula === null || look === 'line' ? [] : [formula]));
    const flags = this.columns.some(({ look }) => look === 'flags') ? FLAGS.map(({ formula }) => formula) : [];
    // Sorted, so that another order of the columns asks for nothing new.
    const errors = shown.flatMap((formula) => ERRORS[formula] ?? []);
    return eachOnce([...ALWAYS, ...shown, ...errors, ...flags, ...this.sortedBy]).sort();
  });
  private readonly sortedBy = $derived.by(() => {
    const column = columnNamed(orderOf(this.params.sort).key);
    return column?.formula && column.look !== 'line' ? [column.formula] : [];
  });

  /** One standard error of what a column shows; null where it has none. */
  errorOf(row: ScreenRow, formula: string | null): number | null {
    const known = formula === null ? undefined : ERRORS[formula];
    return known ? this.value(row, known) : null;
  }

  /** Families of more than one underlying, by name. */
  readonly families = $derived.by(() => familiesOf(this.bench.market.universe ?? []));
  private readonly bySymbol = $derived.by(() => bySymbol(this.bench.market.universe ?? []));

  private readonly left = $derived.by((): readonly ScreenRow[] => {
    const { kinds, families } = this.params;
    const sought = this.sought.trim().toLowerCase();
    return (this.values?.answer.rows ?? []).filter(
      ({ symbol, name, kind }) =>
        (kinds.length === 0 || kinds.includes(kind)) &&
        (families.length === 0 || families.includes(this.family(symbol))) &&
        (sought === '' || `${symbol} ${name}`.toLowerCase().includes(sought)),
    );
  });
  /** Rows that are left, in their order. */
  readonly rows = $derived.by((): readonly ScreenRow[] => {
    const { key, isRising } = orderOf(this.params.sort);
    const column = columnNamed(key);
    const value = (row: ScreenRow) => {
      if (key === 'symbol') return row.symbol;
      if (key === 'kind') return row.kind;
      if (key === 'family') return this.family(row.symbol);
      return column?.formula ? this.value(row, column.formula) : null;
    };
    return sortedRows(this.left, [{ id: 'order', value }], [{ id: 'order', desc: !isRising }]);
  });
  readonly sentence: Sentence | null = $derived.by(() =>
    this.left.length > 0
      ? universeSentence(
          this.left.map((row) => ({
            symbol: row.symbol,
            iv30: this.value(row, 'iv30'),
            hv20: this.value(row, 'hv20.yz'),
            ivToHv: this.value(row, 'iv30 / hv20.yz'),
            termState: stateOf(this.value(row, 'slope')),
          })),
        )
      : null,
  );

  /** How many underlyings have fewer sessions than ranks are over. */
  readonly short = $derived.by(
    () =>
      this.left.filter((row) => {
        const held = this.values?.of(row, HELD) ?? 0;
        return held > 0 && held < RANKED_SESSIONS;
      }).length,
  );

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => {
      void bench.market.edition;
      this.lines.forget(bench.context.asof);
    });
  }

  family(symbol: string): string {
    return this.bySymbol.get(symbol)?.family ?? '';
  }

  tick(symbol: string): number | null {
    return this.bySymbol.get(symbol)?.tick ?? null;
  }

  /** The value of a formula; prices go with the feed, what depends on chains follows at every quarter of an hour. */
  value(row: ScreenRow, formula: string): number | null {
    const { values, bench } = this;
    const live = bench.context.asof === null ? bench.feed.prices : null;
    if (live && values && (formula === 'price' || formula === 'price / before - 1')) {
      const price = live.prices[row.symbol];
      if (price !== undefined && row.asof !== null && row.asof <= live.moment) {
        if (formula === 'price') return price;
        const calendar = this.bySymbol.get(row.symbol)?.calendar ?? null;
        return liveChange(price, values.of(row, 'before'), calendar, row.asof, live.moment);
      }
    }
    return values?.of(row, formula) ?? null;
  }

  /** Words of what stands out of an underlying. */
  flags(row: ScreenRow): readonly Flag[] {
    return flagsOf((formula) => this.values?.of(row, formula) ?? null);
  }

  /** Where the API gives the values of what is shown, as CSV. */
  address(): string {
    const { asof } = this.bench.context;
    const { keep, kinds, families, sort } = this.params;
    return screenAddress({ asof, columns: this.columns, keep, kinds, families, sort });
  }

  /** What is shown as a file has it. */
  table(): DataTable | null {
    return this.values
      ? screenTable(
          this.rows,
          this.columns,
          (row, formula) => this.value(row, formula),
          (symbol) => this.family(symbol),
        )
      : null;
  }
}
