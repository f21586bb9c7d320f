/**
 * Stream: server-sent events for those who listen. Imports nothing.
 */
export { Listener, message } from './listener';
