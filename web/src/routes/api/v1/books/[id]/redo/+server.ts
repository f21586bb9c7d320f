import * as api from '$lib/api/book/endpoints';
import { turnBook } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { numberOf } from '../../asked';

export const POST = handle(api.redoBook, ({ path }) => turnBook(database(), numberOf('book', path.id), 'redo'));
