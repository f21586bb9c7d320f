import { endpoint, openApiDocument } from '$lib/server/api';

export const GET = endpoint(() => openApiDocument());
