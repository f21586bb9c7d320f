import { defineParams, word } from '$lib/address/params';

export interface PricerParams {
  /** What is changed of the contract in focus: `vol:0.25;days:30`. */
  changes: string;
}

export const PARAMS = defineParams<PricerParams>({ changes: word<string>('set', '') });
