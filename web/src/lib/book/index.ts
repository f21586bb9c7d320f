/**
 * Book: what the page asks of books, which several views do. Imports the core, the API, state and ui.
 */
export {
  contractOf,
  heldLegOf,
  legOf,
  loadBooks,
  type Book,
  type Booked,
  type BookLeg,
  type Fill,
  type FillGiven,
  type Position,
  type PositionDetail,
  type RiskLeg,
  type Scenario,
  type Worth,
} from './books';
