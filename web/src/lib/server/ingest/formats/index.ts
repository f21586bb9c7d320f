/**
 * Formats: files of any format as tables of texts. bytes → reader → batches of rows.
 * May import libraries for file formats, table.ts and source.ts.
 */
export { formatOf, headOf, type FileFormat } from './bytes';
export { checkMatching, inspectFile, readTable, rememberMatching, type Inspected } from './inspect';
