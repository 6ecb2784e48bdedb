import type { APIRoute } from 'astro';
import { importIntoTab, tabAsTable } from '../../../../app/sheets.ts';
import { MOST_FILE_BYTES } from '../../../../tables/table.ts';
import { asCsv, asXlsx } from '../../../../tables/write.ts';
import { problemResponse, surroundings, takesFile } from '../../../../web/endpoint.ts';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;

export const POST = takesFile(MOST_FILE_BYTES, (use, file, { id }) => importIntoTab(use, id!, file.bytes));

export const GET: APIRoute = async (context) => {
  try {
    const table = await tabAsTable(surroundings(context), context.params.id!);
    const format = new URL(context.request.url).searchParams.get('format') === 'xlsx' ? 'xlsx' : 'csv';
    const body = format === 'xlsx' ? await asXlsx(table.rows) : asCsv(table.rows);
    const name = encodeURIComponent(`${table.name}.${format}`);
    return new Response(body as BodyInit, {
      headers: {
        'content-type': TYPES[format],
        'content-disposition': `attachment; filename="table.${format}"; filename*=UTF-8''${name}`,
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    return problemResponse(error);
  }
};
