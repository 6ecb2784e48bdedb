import type { APIRoute } from 'astro';
import { exportLead } from '../../../../app/lead-care.ts';
import { problemResponse, surroundings } from '../../../../web/endpoint.ts';

/** Everything known of one person, as a file. */
export const GET: APIRoute = async (context) => {
  try {
    const all = await surroundings(context).write((tx) => exportLead(tx, context.params.id!));
    return new Response(JSON.stringify(all, null, 2), {
      headers: {
        'content-type': 'application/json',
        'content-disposition': 'attachment; filename="everything-we-know.json"',
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    return problemResponse(error);
  }
};
