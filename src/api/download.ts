import type { Use } from '../app/use.ts';

/** A file to be kept, never shown as a page of ours. */
export const download = (name: string, type: string, content: BodyInit): Response =>
  new Response(content, {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      'cache-control': 'no-store',
    },
  });

/** Rows as a file in the form that is asked for; CSV where nothing is said. */
export const table = (
  use: Use,
  query: URLSearchParams,
  { name, rows }: { name: string; rows: AsyncGenerator<string[][]> },
): Promise<Response> => use.runtime.tableWriter.file(name, query.get('format') === 'xlsx' ? 'xlsx' : 'csv', rows);
