import { v7 as uuidv7 } from 'uuid';
import type { z } from 'zod';
import type { NoticeKind } from '../../core/notices/notices.ts';
import type { QuietHours, Telling } from '../../core/notices/telling.ts';
import { readPhone } from '../../core/people/phone.ts';
import { Membership } from '../../db/entities/business.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface TellingView {
  email: NoticeKind[];
  text: NoticeKind[];
  quiet: QuietHours | null;
  summaryAt: string | null;
  /** Where texts would go; empty where they have said none. */
  phone: string;
  /** What went wrong with the last, by its way; empty where nothing did. */
  problems: { email: string; text: string };
}

/** How somebody is told of what comes, beside their devices. */
export async function getTelling({ em, db, actor }: Use): Promise<TellingView> {
  const mine = await em.findOneOrFail(Membership, { business: actor.businessId, person: actor.personId });
  const { rows } = await db.query<{ by: 'email' | 'text'; wants: NoticeKind[]; problem: string | null }>(
    'select by, wants, problem from notice_way where business_id = $1 and person_id = $2',
    [actor.businessId, actor.personId],
  );
  const way = (by: 'email' | 'text') => rows.find((row) => row.by === by);
  return {
    ...{ email: way('email')?.wants ?? [], text: way('text')?.wants ?? [] },
    ...{ quiet: mine.quiet ?? null, summaryAt: mine.summaryAt ?? null, phone: mine.testPhone },
    problems: { email: way('email')?.problem ?? '', text: way('text')?.problem ?? '' },
  };
}

/** What waits for an hour at which somebody may be told looks again: it may be another now. */
export async function lookAgain({ db, actor }: Write, personId: string): Promise<void> {
  for (const table of ['notice_way', 'push_device'])
    await db.query(`update ${table} set not_before = null where business_id = $1 and person_id = $2`, [
      actor.businessId,
      personId,
    ]);
}

/** Changes how they are told. What has come before is no news: it begins with what comes from now on. */
export async function changeTelling(tx: Write, input: z.infer<typeof Telling>): Promise<TellingView> {
  const { actor, db } = tx;
  const before = await getTelling(tx);
  if (input.text.length > 0 && !readPhone(before.phone, actor.country).ok)
    throw new Refusal(
      422,
      'phone',
      'Say your phone first, under “Where you are reached”. Then you can be told by text.',
      {
        field: 'text',
      },
    );
  const of = [actor.businessId, actor.personId];
  for (const by of ['email', 'text'] as const)
    if (input[by].length === 0)
      await db.query('delete from notice_way where business_id = $1 and person_id = $2 and by = $3', [...of, by]);
    else
      await db.query(
        `insert into notice_way (id, business_id, person_id, by, wants, told_until) values ($3, $1, $2, $4, $5, $6)
         on conflict (business_id, person_id, by) do update set wants = excluded.wants, problem = null, failures = 0,
           told_until = case when notice_way.wants @> excluded.wants then notice_way.told_until else excluded.told_until end`,
        [...of, uuidv7(), by, input[by], new Date(tx.runtime.now())],
      );
  await db.query('update membership set quiet = $3, summary_at = $4 where business_id = $1 and person_id = $2', [
    ...of,
    input.quiet && JSON.stringify(input.quiet),
    input.summaryAt,
  ]);
  await lookAgain(tx, actor.personId);
  const { problems: _, phone, ...was } = before;
  tx.note('person.telling', actor.personId, { before: was, after: input });
  return { ...input, phone, problems: { email: '', text: '' } };
}
