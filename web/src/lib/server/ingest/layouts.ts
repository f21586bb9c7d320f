/** The kinds of files that can be imported, in the order in which several files are taken. */
export const FILE_KINDS = ['underlyings', 'rates', 'dividends', 'events', 'bars', 'chain'] as const;
export type FileKind = (typeof FILE_KINDS)[number];

interface Layout {
  required: readonly string[];
  optional: readonly string[];
}

/** The columns of each kind of file, as in docs/formats.md. */
export const LAYOUTS: Record<FileKind, Layout> = {
  underlyings: {
    required: ['symbol', 'name', 'kind'],
    optional: ['currency', 'multiplier', 'exercise', 'family', 'family_ratio', 'calendar', 'root', 'expires', 'tick'],
  },
  rates: { required: ['date', 'currency', 'days', 'rate'], optional: [] },
  dividends: { required: ['symbol', 'ex_date', 'amount'], optional: ['kind'] },
  events: { required: ['symbol', 'start', 'title'], optional: ['kind'] },
  bars: { required: ['symbol', 'date', 'open', 'high', 'low', 'close'], optional: ['volume'] },
  chain: {
    required: ['asof', 'symbol', 'expiry', 'strike', 'side', 'bid', 'ask'],
    optional: ['bid_size', 'ask_size', 'last', 'volume', 'open_interest', 'underlying_price', 'settlement'],
  },
};

/** A header row matched to a kind of file. */
export interface MatchedHeader {
  kind: FileKind;
  /** Position of each known column that the file has. */
  position: Readonly<Record<string, number>>;
  /** Columns that no layout knows; they are kept out and reported. */
  ignored: string[];
}

/** Thrown for a file whose header fits no kind. */
export class HeaderError extends Error {}

/**
 * Tells the kind of a file from its header: the layout with the most required columns, all of them there.
 * Names match case-blind, in any order.
 *
 * @throws HeaderError naming what is missing for the nearest kind, or a column that stands twice
 */
export function matchHeader(cells: readonly string[]): MatchedHeader {
  const names = cells.map((cell) =>
    cell
      .replace(/^\uFEFF/, '')
      .trim()
      .toLowerCase()
      .replace(/[\s-]+/g, '_'),
  );
  const repeated = names.find((name, i) => name !== '' && names.indexOf(name) !== i);
  if (repeated) throw new HeaderError(`row 1: the column ${repeated} stands twice`);
  const missing = (kind: FileKind) => LAYOUTS[kind].required.filter((name) => !names.includes(name));
  const byFit = [...FILE_KINDS].sort(
    (a, b) =>
      missing(a).length / LAYOUTS[a].required.length - missing(b).length / LAYOUTS[b].required.length ||
      LAYOUTS[b].required.length - LAYOUTS[a].required.length,
  );
  const kind = byFit[0]!;
  if (missing(kind).length > 0) {
    const isNothingLikeIt = missing(kind).length === LAYOUTS[kind].required.length;
    throw new HeaderError(
      isNothingLikeIt
        ? `row 1: no header of a known file; a chain file has ${LAYOUTS.chain.required.join(', ')}`
        : `row 1: for a ${kind} file the header lacks ${missing(kind).join(', ')}`,
    );
  }
  const known = [...LAYOUTS[kind].required, ...LAYOUTS[kind].optional];
  return {
    kind,
    position: Object.fromEntries(names.flatMap((name, i) => (known.includes(name) ? [[name, i]] : []))),
    ignored: cells.filter((_, i) => names[i] !== '' && !known.includes(names[i]!)),
  };
}
