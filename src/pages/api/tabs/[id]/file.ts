import type { APIRoute } from 'astro';
import { importIntoTab, tabAsTable } from '../../../../app/sheet-rows.ts';
import { MOST_FILE_BYTES } from '../../../../tables/table.ts';
import { problemResponse, surroundings, takesFile } from '../../../../web/endpoint.ts';
import { formatAsked } from '../../../../web/file-format.ts';

export const POST = takesFile(MOST_FILE_BYTES, (use, file, { id }) => importIntoTab(use, id!, file));

export const GET: APIRoute = async (context) => {
  try {
    const use = surroundings(context);
    const { name, rows } = await tabAsTable(use, context.params.id!);
    return await use.runtime.tableWriter.file(name, formatAsked(context.url.searchParams), rows);
  } catch (error) {
    return problemResponse(error);
  }
};
