import { fitGiven, surfacePoint, type Curve } from '@umwelt/core';
import type { z } from 'zod';
import { parseBody } from '../api/body';
import { SurfaceFitRequest, type SurfaceFitResponse } from '../../api/schemas';

type Params = z.infer<typeof SurfaceFitResponse>['slices'][number]['params'];

/** A mixture has so many parameters to each state. */
const PER_STATE = 3;

function paramsOf({ kind, parameters }: Curve): Params {
  if (kind === 'borrowed') throw new TypeError('a curve of given vols is its own');
  if (kind !== 'mixture') {
    const [a, b, rho, m, sigma] = parameters as [number, number, number, number, number];
    return { kind, a, b, rho, m, sigma };
  }
  const states = Array.from({ length: parameters.length / PER_STATE }, (_, i) => {
    const [weight, multiple, deviation] = parameters.slice(PER_STATE * i) as [number, number, number];
    return { weight, multiple, deviation };
  });
  return { kind, states };
}

/** The answer to a request for a surface of given vols, as JSON. @throws ApiError for what does not meet its schema */
export function fitSurface(body: Buffer): Uint8Array {
  const { slices, query } = parseBody(body, SurfaceFitRequest);
  const { fits, calendarArbitrage, surface } = fitGiven(slices);
  const answer: z.infer<typeof SurfaceFitResponse> = {
    slices: fits.map(({ years, curve, rmse, maxError, butterflyArbitrage }) => ({
      ...{ years, params: paramsOf(curve), rmse, maxError, butterflyArbitrage: [...butterflyArbitrage] },
    })),
    calendarArbitrage: [...calendarArbitrage],
    query: query.map(({ years, strike }) => surfacePoint(surface, years, strike)),
  };
  return Buffer.from(JSON.stringify(answer));
}
