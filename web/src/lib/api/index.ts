/**
 * API: what every endpoint takes and answers, by resource. The page asks by it (types alone), the server checks and handles by it,
 * and the OpenAPI document is made of it. Imports the core, and layouts.
 */
export {
  defineEndpoint,
  takesJson,
  type Access,
  type AnswerOf,
  type Endpoint,
  type Method,
  type PathOf,
} from './define';
export { ENDPOINTS, RESOURCES, TAGS, type Api } from './endpoints';
export * as schemas from './schemas';
