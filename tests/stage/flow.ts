import { expect } from 'chai';
import type { SourceView } from '../../src/app/sources/sources.ts';
import type { Definition, Moment } from '../../src/core/workflow/definition.ts';
import type { Rules } from '../../src/core/workflow/rules.ts';
import { sheetOf } from './sheets.ts';
import { type Stage, type signedIn, until } from './stage.ts';

export type Coordinator = Awaited<ReturnType<typeof signedIn>>;

export interface RunSeen {
  id: string;
  state: string;
  outcome: string;
  due_at: Date | null;
  moment_id: string | null;
  version_id: string;
  lead_id: string;
}

let count = 0;

/** A source of its own and a live workflow that listens to it, in the running application. */
export async function liveFlow(stage: Stage, oona: Coordinator, moments: Moment[], rules: Partial<Rules> = {}) {
  const name = `Case ${++count}`;
  const one = async <T>(sql: string, values: unknown[]) => (await stage.db.query(sql, values)).rows[0] as T;
  const source = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'webhook', name, signed: false })).body;
  await oona.call('PUT', `/api/sources/${source.id}/card`, {
    fields: { first_name: 'name', email: 'email', phone: 'phone' },
    consent: { kind: 'asked_elsewhere', note: 'for the test', wording: 'You may write to me about lessons and news.' },
  });
  const { id } = (await oona.call<{ id: string }>('POST', '/api/workflows', { name, folder: '' })).body;
  const put = async (definition: Definition, moveOn = false) => {
    const { body } = await oona.call<{ workflow: { revision: number } }>('GET', `/api/workflows/${id}`);
    await oona.call('PUT', `/api/workflows/${id}`, { revision: body.workflow.revision, draft: definition });
    return (
      await oona.call<{ version: number; moved: number; detail?: string }>('POST', `/api/workflows/${id}/live`, {
        moveOn,
      })
    ).body;
  };
  const went = await put(sheetOf(moments, rules, [source.id]));
  expect(went.version, went.detail).to.equal(1);
  const send = async (lead: { name?: string; email?: string; phone?: string } & Record<string, unknown>) => {
    const answer = await fetch(source.address, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Ada', email: '', phone: '', ...lead }),
    });
    expect(answer.status).to.equal(202);
    await answer.text();
  };
  const run = (email: string) =>
    one<RunSeen>(
      `select r.* from run r join lead l on l.id = r.lead_id where r.workflow_id = $1 and l.email = $2 order by r.created_at desc limit 1`,
      [id, email],
    );
  const over = (email: string) =>
    until(`the run of ${email} to end`, async () => {
      const found = await run(email);
      return found && found.due_at === null ? found : null;
    });
  const waits = (email: string) =>
    until(`the run of ${email} to wait`, () =>
      one<{ id: string; due_at: Date }>(
        `select r.id, r.due_at from run r join lead l on l.id = r.lead_id
         where r.workflow_id = $1 and l.email = $2 and r.due_at is not null and r.lease_by is null`,
        [id, email],
      ),
    );
  return { id, source, put, send, run, over, waits };
}

/** What is done at the practice desk. */
export const atTheDesk = async (stage: Stage, path: string, body: unknown): Promise<void> => {
  const answer = await fetch(`${stage.desk.url}/api${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  expect(answer.status, await answer.text()).to.equal(200);
};

/** Texts a practice phone has been sent, in order. */
export const textsOn = (stage: Stage, number: string): string[] =>
  (stage.desk.world.state.phones[number]?.messages ?? [])
    .filter((message) => message.direction === 'to_phone')
    .map((message) => message.text);
