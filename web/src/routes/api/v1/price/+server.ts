import { priceContract } from '@umwelt/core';
import { endpoint, readBody, schemas } from '$lib/server/api';

const EXPIRED = { error: { code: 'expired', message: 'the time to expiry is negative' } };

export const POST = endpoint(async (event) => {
  const { contracts } = await readBody(event, schemas.PriceRequest);
  return { results: contracts.map((contract) => (contract.years < 0 ? EXPIRED : priceContract(contract))) };
});
