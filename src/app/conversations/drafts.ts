import { z } from 'zod';
import { emailHtml, headerText } from '../../core/template/email-html.ts';
import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** A message that waits for a person to read it and send it. */
export interface DraftView {
  id: string;
  leadId: string;
  name: string;
  workflowId: string;
  workflowName: string;
  runId: string;
  createdAt: string;
  message: OutgoingMessage;
  /** The words can be changed here; those of a template cannot. */
  editable: boolean;
  /** They have asked for no more since: it will not go out. */
  withdrawn: boolean;
}

export async function listDrafts(use: Use): Promise<DraftView[]> {
  const { rows } = await use.db.query(
    `select d.id, d.lead_id, d.run_id, d.created_at, d.message, l.first_name, l.last_name, l.email, l.phone, w.id as workflow_id, w.name as workflow_name,
       coalesce(consents_of(d.lead_id, 'service') ->> d.channel = 'withdrawn', false) as withdrawn
     from delivery d join lead l on l.id = d.lead_id join run r on r.id = d.run_id join workflow w on w.id = r.workflow_id
     where d.business_id = $1 and d.state = 'draft' order by d.created_at limit 200`,
    [use.actor.businessId],
  );
  return rows.map((row) => ({
    id: row.id,
    leadId: row.lead_id,
    name: `${row.first_name} ${row.last_name}`.trim() || row.email || row.phone,
    workflowId: row.workflow_id,
    workflowName: row.workflow_name,
    runId: row.run_id,
    createdAt: row.created_at.toISOString(),
    message: row.message,
    editable: !(row.message.channel === 'email' && row.message.laidOut),
    withdrawn: row.withdrawn,
  }));
}

/** How many messages wait to be read and sent. */
export async function draftCount({ db, actor }: Use): Promise<number> {
  const { rows } = await db.query<{ n: number }>(
    `select count(*)::int as n from delivery where business_id = $1 and state = 'draft'`,
    [actor.businessId],
  );
  return rows[0]!.n;
}

export const DraftInput = z.object({
  text: z.string().trim().min(1, 'The message is empty').max(50_000).optional(),
  subject: z.string().trim().min(1, 'The subject is empty').max(500).optional(),
});

/** The message with what was changed in it. */
function changed(message: OutgoingMessage, { text, subject }: z.infer<typeof DraftInput>): OutgoingMessage {
  if (message.channel !== 'email') return text === undefined ? message : { ...message, text };
  const picture = /<img src="[^"]*\/o\/[^"]*"[^>]*>/.exec(message.html)?.[0] ?? '';
  return {
    ...message,
    ...(subject === undefined ? {} : { subject: headerText(subject) }),
    ...(text === undefined || message.laidOut
      ? {}
      : { text, html: emailHtml(text).replace('</body>', `${picture}</body>`) }),
  };
}

/** Lets a draft go, with what was changed in it: the outbox sends it, unless they have asked for no more. */
export async function sendDraft(tx: Write, id: string, input: z.infer<typeof DraftInput>): Promise<void> {
  demand(tx.actor, 'do-work');
  await settle(tx, id, async (draft) => {
    await tx.db.query(
      `update delivery set state = 'sending', message = $2, due_at = now(), sent_by_id = $3,
         hours = (select v.definition #> array['rules', 'hours', $4] from run r join workflow_version v on v.id = r.version_id where r.id = delivery.run_id)
       where id = $1`,
      [id, JSON.stringify(changed(draft.message, input)), tx.actor.personId, draft.message.channel],
    );
    await tx.db.query(
      `update run set outcome = replace(outcome, 'to be read and sent', 'sent by ' || $2) where id = $1`,
      [draft.run_id, tx.actor.name],
    );
  });
  tx.note('draft.send', id);
  tx.after(() => tx.runtime.outbox.poke());
}

/** Throws a draft away: nothing is sent. */
export async function dropDraft(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'do-work');
  await settle(tx, id, async (draft) => {
    await tx.db.query(`update delivery set state = 'dropped', detail = $2, sent_by_id = $3 where id = $1`, [
      id,
      `Thrown away by ${tx.actor.name}`,
      tx.actor.personId,
    ]);
    await tx.db.query(
      `update run set outcome = replace(outcome, 'to be read and sent', 'thrown away by ' || $2) where id = $1`,
      [draft.run_id, tx.actor.name],
    );
  });
  tx.note('draft.drop', id);
}

async function settle(
  tx: Write,
  id: string,
  act: (draft: { message: OutgoingMessage; run_id: string }) => Promise<void>,
): Promise<void> {
  const { rows } = await tx.db.query<{ message: OutgoingMessage; run_id: string; step_id: string; state: string }>(
    'select message, run_id, step_id, state from delivery where id = $1 and business_id = $2 for update',
    [id, tx.actor.businessId],
  );
  const draft = rows[0];
  if (!draft) throw notHere('draft');
  if (draft.state !== 'draft') throw new Refusal(409, 'settled', 'Somebody has sent it or thrown it away already.');
  await act(draft);
  await tx.db.query(
    `update needs_you set settled_at = now(), settled_by_id = $2 where business_id = $3 and subject = $1 and settled_at is null`,
    [`run:${draft.run_id}:step:${draft.step_id}`, tx.actor.personId, tx.actor.businessId],
  );
  tx.ring();
}
