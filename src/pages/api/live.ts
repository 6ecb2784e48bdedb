import type { APIRoute } from 'astro';
import { actorOf } from '../../app/sign-in.ts';
import { liveFeed } from '../../web/live-feed.ts';
import { SESSION_COOKIE } from '../../web/session-cookie.ts';

const BEAT_MS = 10_000;

/** Server-sent events: one line each time something has happened in the business. */
export const GET: APIRoute = async ({ locals, request, cookies }) => {
  const feed = await liveFeed(locals.runtime);
  const { businessId } = locals.actor!;
  const cookie = cookies.get(SESSION_COOKIE)?.value;
  const encoder = new TextEncoder();
  let close = () => {};
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          close();
        }
      };
      const tell = (id: string) => {
        if (id === businessId) send('data: ring\n\n');
      };
      // It ends with the session it was opened by: signed out, run out, or taken out of the business.
      const beat = setInterval(() => {
        actorOf(locals.runtime, cookie).then(
          (actor) => (actor?.businessId === businessId ? send(': here\n\n') : end()),
          // With the database away nobody knows: the next beat asks again.
          () => send(': here\n\n'),
        );
      }, BEAT_MS);
      const end = () => {
        close();
        try {
          controller.close();
        } catch {
          /* Closed from the other side already. */
        }
      };
      close = () => {
        clearInterval(beat);
        feed.off('ring', tell);
      };
      feed.on('ring', tell);
      request.signal.addEventListener('abort', close);
      send(': here\n\n');
    },
    cancel() {
      close();
    },
  });
  return new Response(body, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
};
