import type { APIRoute } from 'astro';
import { consentTable } from '../../../app/consent-record.ts';
import { keepWithin } from '../../../app/wall.ts';
import { choiceOfQuery } from '../../../core/people/choice-query.ts';
import { problemResponse, surroundings } from '../../../web/endpoint.ts';
import { formatAsked } from '../../../web/file-format.ts';

/** The consents of chosen leads as a file. */
export const GET: APIRoute = async (context) => {
  try {
    const use = surroundings(context);
    const query = context.url.searchParams;
    await keepWithin(use, query.toString());
    const { name, rows } = await consentTable(use, choiceOfQuery(query));
    return await use.runtime.tableWriter.file(name, formatAsked(query), rows);
  } catch (error) {
    return problemResponse(error);
  }
};
