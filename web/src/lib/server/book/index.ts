/**
 * Book: what people hold, every change of it with its way back, and what it is worth (in threads). May import the core, db, market and
 * threads.
 */
export { imageOf } from './edit';
export { BookingError, findPosition } from './booking';
export {
  bookFills,
  changeBookTerms,
  changeFill,
  changePosition,
  deleteBook,
  deleteFill,
  deletePosition,
  listBooks,
  listChanges,
  makeBook,
  openPosition,
  payCash,
  settle,
  turnBook,
} from './store';
export { bookWork, prepareBooks } from './pool';
export type { BookTask } from './work';
