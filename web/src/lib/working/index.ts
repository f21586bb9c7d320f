/**
 * Working: how a number comes about, line by line, in words and as formulas with their numbers; and what is said of the contract
 * in focus. Imports the core, columns, data, formats and the kit of parts.
 */
export { spanWords, workingLines, type Sources } from './european';
export { number, signed, type Work, type WorkingLine } from './lines';
export { contractWork } from './contract';
export { default as Derivation } from './Derivation.svelte';
export { default as WorkingDialog } from './WorkingDialog.svelte';
