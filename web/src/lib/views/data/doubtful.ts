import type { DoubtedMeasure, Doubtful } from '@umwelt/core';
import { figures } from '$lib/formats';

/** How a measure is called on screen. */
export const MEASURE_LABELS: Record<DoubtedMeasure, string> = {
  iv7: 'iv7',
  iv30: 'iv30',
  iv60: 'iv60',
  iv90: 'iv90',
  iv180: 'iv180',
  iv360: 'iv360',
  varianceIndex: 'variance index',
  riskReversal25: 'RR 25',
  butterfly25: 'BF 25',
  riskReversal10: 'RR 10',
  butterfly10: 'BF 10',
  straddleRatio: 'straddle over deviation',
};

/** Why a measure is doubtful. */
export function doubtfulWords({ measure, value, usual, errors, sessions }: Doubtful): string {
  const write = (one: number) =>
    measure === 'varianceIndex'
      ? figures.fixed(one, 1)
      : measure === 'straddleRatio'
        ? figures.fixed(one, 2)
        : figures.vol(one);
  const known = Number.isFinite(errors) ? `, ${figures.fixed(errors, 0)} standard errors` : '';
  return `is ${write(value)} between sessions at ${write(usual)}${known}: it comes back within ${figures.counted(sessions, 'session')}, and neither its neighbours nor the price go with it`;
}
