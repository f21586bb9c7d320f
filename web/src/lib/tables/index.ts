/**
 * Tables: what a table shows, as pure functions of what is loaded. The views only draw it.
 */
export { headsOf, numberColumns, tabbed, textsOf, type DataCell, type DataColumn, type DataTable } from './data-table';
export { chainTable, expiriesTable, qualityTable } from './snapshot-tables';
export { nextSorting, sortedRows, type SortColumn, type Sorting } from './sorting';
