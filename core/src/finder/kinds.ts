/** Kinds of structures that are looked through, as the API names them. */
export const FINDER_KINDS = [
  ...['call', 'put', 'vertical-credit', 'vertical-debit', 'straddle', 'strangle'],
  ...['butterfly', 'broken-wing', 'condor', 'iron-condor', 'iron-butterfly', 'calendar', 'diagonal'],
  ...['ratio', 'backspread', 'risk-reversal', 'covered-call', 'collar', 'secured-put'],
] as const;
export type FinderKind = (typeof FINDER_KINDS)[number];

/** A range that holds its ends. */
export type Range = readonly [from: number, to: number];

/** Whether a value lies in a range, if there is one. */
export const isWithin = (value: number, range: Range | undefined) =>
  range === undefined || (value >= range[0] && value <= range[1]);

/** What legs have to be; each holds for sold legs, or for all where none is sold. */
export interface LegLimits {
  /** Of the forward, absolute. */
  readonly delta?: Range | undefined;
  /** To end in the money, by the curve. */
  readonly odds?: Range | undefined;
  /** |ln(K/F)| over σ√T of the expiry. */
  readonly deviations?: Range | undefined;
  /** Distance of the strikes of a wing, or of the two strikes of a pair; in price. */
  readonly width?: Range | undefined;
  /** The same in deviations of the expiry. */
  readonly wing?: Range | undefined;
}
