import type { APIRoute } from 'astro';
import { getAttachment } from '../../../../../../app/arrivals.ts';
import { problemResponse, surroundings } from '../../../../../../web/endpoint.ts';

/** Always as a download: what a stranger has sent is never shown as a page of ours. */
export const GET: APIRoute = async (context) => {
  try {
    const { id, arrival } = context.params;
    const n = Number(new URL(context.request.url).searchParams.get('n') ?? 0);
    const file = await getAttachment(surroundings(context), id!, arrival!, Number.isInteger(n) ? n : 0);
    return new Response(file.bytes as unknown as BodyInit, {
      headers: {
        'content-type': 'application/octet-stream',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`,
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    return problemResponse(error);
  }
};
