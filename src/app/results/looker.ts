import type { Db } from '../../db/db.ts';
import type { Runtime } from '../../runtime.ts';
import type { Actor } from '../actor.ts';

/** Who looks at results: somebody at a screen, or the process that sends the page of the month. */
export interface Looker {
  db: Db;
  actor: Pick<Actor, 'businessId' | 'country' | 'timeZone' | 'locale'>;
  /** Of somebody at a screen. */
  runtime?: Pick<Runtime, 'screens' | 'now'>;
}
