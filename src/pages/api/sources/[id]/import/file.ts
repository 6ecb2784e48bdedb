import type { APIRoute } from 'astro';
import { refusedRows, uploadImport } from '../../../../../app/imports.ts';
import { MOST_FILE_BYTES } from '../../../../../tables/table.ts';
import { asCsv } from '../../../../../tables/write.ts';
import { problemResponse, surroundings, takesFile } from '../../../../../web/endpoint.ts';

export const POST = takesFile(MOST_FILE_BYTES, (use, file, { id }) =>
  use.write((tx) => uploadImport(tx, id!, file.name, file.bytes)),
);

/** The refused rows. */
export const GET: APIRoute = async (context) => {
  try {
    const rows = await surroundings(context).write((tx) => refusedRows(tx, context.params.id!));
    return new Response(asCsv(rows), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': 'attachment; filename="refused-rows.csv"',
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    return problemResponse(error);
  }
};
