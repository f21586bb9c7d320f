/**
 * Stream: server-sent events for those who listen. Imports errors.
 */
export { Hub } from './hub';
export { message, type Listener } from './listener';
