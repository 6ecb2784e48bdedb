import type { TableFormat } from '../tables/table-writer.ts';

/** The form in which a table is asked for; CSV where nothing is said. */
export const formatAsked = (query: URLSearchParams): TableFormat => (query.get('format') === 'xlsx' ? 'xlsx' : 'csv');
