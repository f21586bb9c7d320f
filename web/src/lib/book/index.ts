/**
 * Book: what the page asks of books, which several views do, and trades on their way into one. Imports the core, the API, data, formats,
 * state and ui.
 */
export { bookEdition } from './edition.svelte';
export { contractWords, nameOfLegs, quoteIn, snapshotAt, ticketOfLegs, type Ticket, type TicketRow } from './tickets';
export { intoBook } from './into';
export {
  contractOf,
  heldLegOf,
  legOf,
  loadBooks,
  type Book,
  type Booked,
  type BookLeg,
  type Explained,
  type Fill,
  type FillGiven,
  type Position,
  type PositionDetail,
  type Replay,
  type RiskLeg,
  type Scenario,
  type Worth,
} from './books';
