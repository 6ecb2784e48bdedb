import { actorOf } from '../app/account/session.ts';
import type { Use } from '../app/use.ts';
import { liveFeed } from './live-feed.ts';

const BEAT_MS = 10_000;

/** Server-sent events (HTML standard, 9.2): one line each time something has happened in the business. */
export async function liveStream(
  { runtime, actor }: Use,
  cookie: string | undefined,
  ended: AbortSignal,
): Promise<Response> {
  const feed = await liveFeed(runtime);
  const { businessId } = actor;
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
        actorOf(runtime, cookie, undefined, { key: actor.businessKey, remember: false }).then(
          (now) => (now?.businessId === businessId && !now.businessRemoved ? send(': here\n\n') : end()),
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
      ended.addEventListener('abort', close);
      send(': here\n\n');
    },
    cancel() {
      close();
    },
  });
  return new Response(body, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
