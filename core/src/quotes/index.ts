/**
 * Quotes: lines of a chain file from bytes into columns, without a text in between.
 * Imports nothing of the core.
 */
export {
  NUMBER_COLUMNS,
  QuoteBlock,
  TEXT_COLUMNS,
  type NumberColumn,
  type QuoteColumn,
  type TextColumn,
  type Texts,
} from './columns';
export { QuoteLines, type Stop } from './lines';
