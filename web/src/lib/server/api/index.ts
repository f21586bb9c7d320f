/**
 * API: schemas, problem details, and what the endpoints share. The routes below src/routes/api/v1 are thin.
 */
export { endpoint, idOf, inTurns, csvAnswer, listAnswer, notFound, readBody, readQuery } from './endpoint';
export { ApiError, problem } from './problem';
export { openApiDocument } from './openapi';
export { VERSION } from './version';
export * as schemas from './schemas';
