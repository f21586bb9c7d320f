import { priceContract, pricingModel } from '@umwelt/core';
import { endpoint, inTurns, LARGE_BODY, readBody, schemas } from '$lib/server/api';

const EXPIRED = { error: { code: 'expired', message: 'the time to expiry is negative' } };

export const POST = endpoint(async (event) => {
  const { contracts } = await readBody(event, schemas.PriceRequest, LARGE_BODY);
  const results = await inTurns(event.request.signal, contracts, (contract) =>
    contract.years < 0 ? EXPIRED : { ...priceContract(contract), pricedBy: pricingModel(contract) },
  );
  return { results };
});
