/**
 * Ui: the kit of parts that know nothing of the market, and the theme. Imports the core and formats alone. Sliders are imported by
 * their files: every page loads what is named here, and most do without them.
 */
export { default as ChoiceMenu } from './ChoiceMenu.svelte';
export { default as ColumnPicker } from './ColumnPicker.svelte';
export { default as DataGrid, type Head } from './DataGrid.svelte';
export { default as Dialog } from './Dialog.svelte';
export { followPointer } from './follow';
export { default as KeyArea } from './KeyArea.svelte';
export { default as KeptByName } from './KeptByName.svelte';
export { default as NumberField } from './NumberField.svelte';
export { default as Popover } from './Popover.svelte';
export { default as RowsInView } from './RowsInView.svelte';
export { default as Split } from './Split.svelte';
export { default as Tips } from './Tips.svelte';
export { default as TitleTabs } from './TitleTabs.svelte';
export { default as Toggles } from './Toggles.svelte';
export { notices, notify } from './notices.svelte';
export { whenReleased } from './pressed';
export { monthStarts, positions } from './moments';
export { default as Worked } from './Worked.svelte';
export { provideArea } from './area';
export { rowsInView } from './rows-in-view';
