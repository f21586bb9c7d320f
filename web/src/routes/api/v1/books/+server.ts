import * as api from '$lib/api/book/endpoints';
import { listBooks, makeBook } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked } from './asked';

export const GET = handle(api.listBooks, async () => ({ books: await listBooks(database()) }));

export const POST = handle(api.makeBook, ({ body }) => booked(makeBook(database(), body)));
