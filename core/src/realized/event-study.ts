/** What is known of an underlying at a moment, for the study of what an announcement did. */
export interface StudyMoment {
  /** Milliseconds of universal time. */
  instant: number;
  price: number;
  /** Vol of the expiry or of the days that are studied, a decimal; NaN where there is none. */
  vol: number;
  /** Expected move of the first expiry after the announcement by its straddle, in money; NaN where there is none. */
  expectedMove: number;
}

/** What an announcement did. */
export interface EventStudy {
  instant: number;
  /** The last moment before, and the first one after. */
  before: StudyMoment;
  after: StudyMoment;
  /** Move of the price across it, a share of the price before. */
  move: number;
  /** What the straddle expected of the days to its expiry, the same way. */
  expected: number;
  /** Size of the move over what was expected. */
  ratio: number;
  /** Vol after less vol before. */
  change: number;
  /** Hours from the announcement until half of the fall of the vol within the study had happened; NaN where it did not fall. */
  halfFall: number;
}

const HOUR = 3_600_000;

/**
 * Studies announcements by the moments that are held around them.
 *
 * @param moments in order of time
 * @param events their instants
 * @param reach how far before and after moments are looked at, in milliseconds
 * @returns those with a price and a vol on both sides, in order of time
 */
export function eventStudies(moments: readonly StudyMoment[], events: readonly number[], reach: number): EventStudy[] {
  const usable = moments.filter(({ price, vol }) => price > 0 && Number.isFinite(vol));
  return events
    .toSorted((a, b) => a - b)
    .flatMap((instant): EventStudy[] => {
      const before = usable.findLast((one) => one.instant <= instant && one.instant >= instant - reach);
      const later = usable.filter((one) => one.instant > instant && one.instant <= instant + reach);
      const [after] = later;
      if (!before || !after) return [];
      const move = after.price / before.price - 1;
      const expected = before.expectedMove / before.price;
      const lowest = Math.min(...later.map(({ vol }) => vol));
      const half = before.vol - 0.5 * (before.vol - lowest);
      const reached = lowest < before.vol ? later.find(({ vol }) => vol <= half) : undefined;
      return [
        {
          ...{ instant, before, after, move, expected },
          ratio: Math.abs(move) / expected,
          change: after.vol - before.vol,
          halfFall: reached ? (reached.instant - instant) / HOUR : NaN,
        },
      ];
    });
}
