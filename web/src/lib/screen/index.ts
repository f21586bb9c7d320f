/**
 * Screens: formulas as columns and filters of the Universe. Imports formats, state for asking the API, types of tables and the
 * core.
 */
export { default as FormulaInput } from './FormulaInput.svelte';
export { default as WallPanel } from './WallPanel.svelte';
export { default as ScreenMenu } from './ScreenMenu.svelte';
export { limitText, withLimit, type LimitEnd } from './limits';
export { SHIPPED_SCREENS, type Screen } from './shipped';
export { OFFERED_MEASURES, measureNamed } from './measures';
export { askScreen, leftBy, screenOrders, screenText, type ScreenAnswer } from './results';
