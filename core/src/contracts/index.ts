/**
 * Contracts: the symbols that name them.
 * Imports nothing of the core.
 */
export { contractSymbol, parseContractSymbol, type ContractTerms } from './osi';
