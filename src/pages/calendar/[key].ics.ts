import type { APIRoute } from 'astro';
import { calendarFeed } from '../../app/calendar/calendar.ts';

/** Read by calendar programs, which have no sign-in: open to whoever has the address. */
export const GET: APIRoute = async ({ params, locals }) => {
  const feed = await calendarFeed(locals.runtime, params.key ?? '');
  if (feed === null) return new Response('Nothing here.', { status: 404 });
  return new Response(feed, {
    headers: { 'content-type': 'text/calendar; charset=utf-8', 'cache-control': 'no-store' },
  });
};
