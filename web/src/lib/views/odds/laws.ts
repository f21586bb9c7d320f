import {
  basisLevel,
  basisLaw,
  lognormalLaw,
  sampleLaw,
  zoneOdds,
  type BasisChoice,
  type ExpiryFit,
  type Law,
  type Sample,
  type Zone,
} from '@umwelt/core';
import { type LawName, type ZonePreset } from './params';

/** A law by its name, or why there is none. */
export interface NamedLaw {
  name: LawName;
  law: Law | null;
  /** The one vol of it; NaN of a curve or a sample. */
  vol: number;
  missing: string;
}

const MISSING: Record<LawName, string> = {
  curve: 'the expiry has no curve',
  own: 'the contract in focus has no vol of its own',
  level: 'the expiry has no vol at the forward',
  index: 'no variance index is known at this moment',
  realized: 'too few bars are held for its window',
  manual: 'no vol is typed',
  past: 'too few bars are held for moves as long as the expiry is away',
};

/**
 * The laws of an expiry.
 *
 * @param ownVol of the contract in focus
 * @param sample paths of the past to the expiry; undefined while they are drawn
 */
export function namedLaws(
  names: readonly LawName[],
  fit: ExpiryFit,
  choiceOf: (name: Exclude<LawName, 'past'>) => BasisChoice,
  ownVol: number,
  sample: Sample | null | undefined,
): NamedLaw[] {
  return names.map((name): NamedLaw => {
    if (name === 'past') {
      const law = sample ? sampleLaw(sample.ends, sample.independent) : null;
      const isTooNear = fit.sessions < 1;
      const why = isTooNear ? 'the expiry ends within the session: no past move is so short' : MISSING.past;
      return { name, law, vol: NaN, missing: law ? '' : sample === undefined ? 'being drawn' : why };
    }
    const choice = choiceOf(name);
    const vol = name === 'own' ? ownVol : name === 'curve' ? NaN : basisLevel(choice, fit);
    const isOneVol = name === 'own' || name === 'level' || (name === 'manual' && choice.manual?.kind !== 'shift');
    const isKnown = fit.forward > 0 && fit.years > 0;
    const law = isOneVol && isKnown && vol > 0 ? lognormalLaw(vol * Math.sqrt(fit.years)) : basisLaw(fit, choice, vol);
    const why = !(fit.forward > 0)
      ? 'the expiry has no forward over zero'
      : !(fit.years > 0)
        ? 'the expiry is over'
        : MISSING[name];
    return { name, law, vol, missing: law ? '' : why };
  });
}

/** Levels that a preset means for an expiry; those that are typed, or none where it means nothing. */
export function presetLevels(
  preset: ZonePreset,
  fit: Pick<ExpiryFit, 'forward' | 'deviationMove'>,
  price: number,
  typed: readonly number[],
  spread: readonly number[],
): number[] {
  const { forward, deviationMove: move } = fit;
  const around = (middle: number, ...sizes: number[]) =>
    sizes.flatMap((size) => [middle - size, middle + size]).filter((level) => level > 0);
  const at = price > 0 ? price : forward;
  const found = {
    typed: [...typed],
    deviation: around(forward, move),
    deviations: around(forward, move, 2 * move),
    percent5: around(at, 0.05 * at),
    percent10: around(at, 0.1 * at),
    spread: [...spread],
  }[preset];
  return found.filter(Number.isFinite).sort((a, b) => a - b);
}

/** Odds of the zones between levels; none where there is no law. */
export function zonesOf(law: Law | null, forward: number, levels: readonly number[]): Zone[] {
  return law ? zoneOdds(law, forward, levels) : [];
}

/** Prices at which a density has its humps, the highest first: those that stand out of the valley beside them. */
export function humpsOf(law: Law, forward: number, deviation: number): number[] {
  const STEPS = 160;
  const REACH = 3;
  const k = Array.from({ length: STEPS + 1 }, (_, i) => REACH * deviation * ((2 * i) / STEPS - 1));
  const density = k.map((x) => law.density(x));
  const most = Math.max(...density);
  const peaks = [...k.keys()].filter(
    (i) =>
      i > 0 && i < STEPS && density[i]! > density[i - 1]! && density[i]! >= density[i + 1]! && density[i]! > 0.1 * most,
  );
  // A peak counts beside a higher one where the valley between them is a tenth lower than it.
  const kept: number[] = [];
  for (const peak of peaks.toSorted((a, b) => density[b]! - density[a]!)) {
    const isApart = kept.every((other) => {
      const between = density.slice(Math.min(peak, other), Math.max(peak, other) + 1);
      return Math.min(...between) < 0.9 * density[peak]!;
    });
    if (isApart) kept.push(peak);
  }
  return kept.map((i) => forward * Math.exp(k[i]!));
}

/** Each value once, in the order in which they come. */
export const unique = (values: readonly number[]): number[] => [...new Set(values)];
