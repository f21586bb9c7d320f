/**
 * API: schemas, problem details, and what the endpoints share. The routes below src/routes/api/v1 are thin.
 */
export { endpoint, eventsAnswer, idOf, csvAnswer, headsOf, jsonAnswer, notFound, readQuery } from './endpoint';
export { LARGE_BODY, readBody, readBytes } from './body';
export { creatingEndpoint } from './once';
export { incomingFile } from './incoming';
export { ApiError, problem } from './problem';
export { openApiDocument } from './openapi';
export { VERSION } from './version';
