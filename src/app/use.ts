import type { EntityManager } from '@mikro-orm/postgresql';
import pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import type { Db } from '../db/db.ts';
import { Audit } from '../db/entities/business.ts';
import { log } from '../log.ts';
import type { Runtime } from '../runtime.ts';
import type { Actor } from './actor.ts';

/** What a use case that looks works with: who asks, and two ways to the same database. */
export interface Use {
  runtime: Runtime;
  actor: Actor;
  /** Plain statements. */
  db: Db;
  /** The object mapper: one unit of work. */
  em: EntityManager;
  /** What whoever asks has looked at, as `seenAs` calls it; null where they do not say. */
  seen: string | null;
  /** Does one thing in one transaction: all of it with its note of who did it or, when it throws, none of it. */
  write<T>(work: (tx: Write) => Promise<T>): Promise<T>;
}

/**
 * What a use case that changes something works with: `db` and `em` share one connection and one transaction. Whoever is handed one is inside it
 * already, so one use case may call another. Nothing slow belongs in here: what asks another service does so before.
 */
export interface Write extends Use {
  /** Notes who did what, in the same transaction: on the trail of the business they are in, unless it is about another of theirs. */
  note(action: string, subject: string, detail?: Record<string, unknown>, businessId?: string): void;
  /** What may happen only once everything stands. */
  after(effect: () => void): void;
  /** After it stands: the engine looks at this business's settings anew. */
  forget(): void;
  /** After it stands: open screens of this business look again. */
  ring(): void;
}

export const openUse = (runtime: Runtime, actor: Actor, seen: string | null = null): Use => ({
  runtime,
  actor,
  db: runtime.screens,
  em: runtime.orm.em.fork(),
  seen,
  write: (work) => write(runtime, actor, seen, work),
});

/**
 * The object mapper's own connection for plain statements, one after the other. It reads times as text there, which they do not.
 */
async function connectionOf(em: EntityManager): Promise<Db> {
  const connection: pg.Client = await em.getTransactionContext()!.client.acquireConnection();
  let last: Promise<unknown> = Promise.resolve();
  return {
    query<R extends pg.QueryResultRow>(text: string, values?: unknown[]) {
      const asked = () => connection.query<R>({ text, ...(values ? { values } : {}), types: pg.types });
      const next = last.then(asked, asked);
      last = next;
      return next;
    },
  };
}

/** Tries before somebody is told that others are saving at the same moment. */
const TRIES = 3;
/** deadlock_detected and serialization_failure: of two that were in each other's way one was undone as a whole, and may go again. */
const IN_EACH_OTHERS_WAY = new Set(['40P01', '40001']);

async function write<T>(
  runtime: Runtime,
  actor: Actor,
  seen: string | null,
  work: (tx: Write) => Promise<T>,
): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await writeOnce(runtime, actor, seen, work);
    } catch (error) {
      if (tries === TRIES || !IN_EACH_OTHERS_WAY.has(String((error as { code?: unknown } | null)?.code))) throw error;
    }
}

async function writeOnce<T>(
  runtime: Runtime,
  actor: Actor,
  seen: string | null,
  work: (tx: Write) => Promise<T>,
): Promise<T> {
  const effects: (() => void)[] = [];
  const came = await runtime.orm.em.fork().transactional(async (em) => {
    const tx: Write = {
      runtime,
      actor,
      em,
      seen,
      db: await connectionOf(em),
      write: (inner) => inner(tx),
      note: (action, subject, detail = {}, businessId = actor.businessId) => {
        em.create(Audit, {
          ...{ id: uuidv7(), business: businessId, person: actor.personId, at: new Date() },
          ...{ action, subject, detail },
        });
      },
      after: (effect) => void effects.push(effect),
      forget: () => tx.after(() => runtime.settingsCache.forget()),
      ring: () => tx.after(() => runtime.bell.ring(actor.businessId)),
    };
    return work(tx);
  });
  for (const effect of effects)
    try {
      effect();
    } catch (error) {
      // It is written: whoever asked must not be told otherwise, and do it twice. Loops look by themselves too.
      log.error({ scope: 'use', err: error }, 'done, and others were not told');
    }
  return came;
}
