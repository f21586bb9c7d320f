/**
 * Reference: the API as a page, made of its OpenAPI document. Imports nothing of ours.
 */
export { default as Reference } from './Reference.svelte';
