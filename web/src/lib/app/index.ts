/**
 * App: what stands around every view. Imports everything; of views what the registry needs.
 */
export { default as BasisDialog } from './BasisDialog.svelte';
export { default as BottomLine } from './BottomLine.svelte';
export { default as CloseUp } from './CloseUp.svelte';
export { default as Keys } from './Keys.svelte';
export { default as PlayedContract } from './PlayedContract.svelte';
export { default as Rail } from './Rail.svelte';
export { default as Tideline } from './Tideline.svelte';
export { default as TopBar } from './TopBar.svelte';
export { actionsOf } from './actions';
export { listenForKeys, listenForLegs } from './keys';
export { NOTHING_TYPED, typeAhead, type TypedAhead } from './typed-ahead';
export { VIEWS } from './views';
