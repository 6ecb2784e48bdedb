import type { APIRoute } from 'astro';
import { keptPicture } from '../../app/messages/files.ts';

/** Pictures shown in emails: open to whoever has the address, as a mail program has no sign-in. */
export const GET: APIRoute = async ({ params, locals }) => {
  const picture = await keptPicture(locals.runtime.pool, params.id ?? '');
  if (!picture) return new Response('Nothing here.', { status: 404 });
  return new Response(new Uint8Array(picture.content), {
    headers: {
      'content-type': picture.type,
      'cache-control': 'public, max-age=31536000, immutable',
      'content-security-policy': "default-src 'none'; sandbox",
      'x-content-type-options': 'nosniff',
    },
  });
};
