import type { APIRoute } from 'astro';
import { leadsAsTable } from '../../../app/lead-rows.ts';
import { keepWithin } from '../../../app/wall.ts';
import { choiceOfQuery } from '../../../core/people/choice-query.ts';
import { problemResponse, surroundings } from '../../../web/endpoint.ts';
import { formatAsked } from '../../../web/file-format.ts';

/** Chosen leads as a file. */
export const GET: APIRoute = async (context) => {
  try {
    const use = surroundings(context);
    const query = context.url.searchParams;
    await keepWithin(use, query.toString());
    const { name, rows } = await leadsAsTable(use, choiceOfQuery(query));
    return await use.runtime.tableWriter.file(name, formatAsked(query), rows);
  } catch (error) {
    return problemResponse(error);
  }
};
