import type { APIRoute } from 'astro';
import { liveFeed } from '../../web/live-feed.ts';

/** Server-sent events: one line each time something has happened in the business. */
export const GET: APIRoute = async ({ locals, request }) => {
  const feed = await liveFeed(locals.runtime);
  const { businessId } = locals.actor!;
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
      const beat = setInterval(() => send(': here\n\n'), 15_000);
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
