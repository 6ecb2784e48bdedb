import { EventEmitter } from 'node:events';
import pg from 'pg';
import { LIVE_CHANNEL } from '../engine/bell.ts';
import type { Runtime } from '../runtime.ts';

let feed: Promise<EventEmitter> | null = null;

/** One listening connection per process; emits `ring` with a business id. It comes back by itself when the database does. */
export function liveFeed(runtime: Runtime): Promise<EventEmitter> {
  feed ??= (async () => {
    const emitter = new EventEmitter();
    emitter.setMaxListeners(0);
    const connect = async () => {
      const client = new pg.Client({ connectionString: runtime.settings.databaseUrl });
      let ended = false;
      const reconnect = () => {
        if (ended) return;
        ended = true;
        setTimeout(() => void connect(), 1000);
      };
      client.on('error', reconnect);
      client.on('end', reconnect);
      client.on('notification', ({ payload }) => emitter.emit('ring', payload));
      try {
        await client.connect();
        await client.query(`listen ${LIVE_CHANNEL}`);
      } catch {
        reconnect();
      }
    };
    await connect();
    return emitter;
  })();
  return feed;
}
