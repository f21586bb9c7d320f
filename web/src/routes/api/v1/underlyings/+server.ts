import { endpoint, listAnswer, readQuery, schemas } from '$lib/server/api';
import { held } from '$lib/server/database';
import { universeAt } from '$lib/server/market';

export const GET = endpoint(async (event) => {
  const { asof } = readQuery(event, schemas.AsofQuery);
  return listAnswer(
    event,
    'underlyings',
    schemas.UnderlyingsResponse.shape.underlyings,
    await universeAt(held(), asof ? new Date(asof) : undefined),
  );
});
