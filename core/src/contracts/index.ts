/**
 * Contracts: what names them, expiries and legs, and the symbols that they are written as.
 * Imports nothing of the core.
 */
export {
  expiryAt,
  expiryName,
  isSameContract,
  isSameExpiry,
  isUnderlying,
  namedExpiry,
  parseExpiryName,
  SETTLEMENTS,
  type ContractId,
  type ExpiryId,
  type Leg,
  type NamedExpiry,
  type NamedLeg,
  type OptionId,
  type Settlement,
  type Side,
  type UnderlyingId,
} from './contract';
export { contractSymbol, parseContractSymbol, type ContractTerms } from './osi';
