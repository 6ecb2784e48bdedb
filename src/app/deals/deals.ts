import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { readNumber } from '../../core/fields/read-number.ts';
import { tellOf } from '../../engine/runs/tell-of.ts';
import { noteMove } from '../../steps/deal/note-move.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface BoardStage {
  id: string;
  name: string;
  /** A deal that comes here is over. */
  ends: 'won' | 'lost' | null;
}

export interface BoardDeal {
  id: string;
  leadId: string;
  lead: string;
  title: string;
  value: string | null;
  stageId: string;
  owner: string;
  nextStep: string;
  createdAt: string;
  movedAt: string;
  /** What moved it last: the workflow's name, or a person. */
  movedBy: string;
}

export interface Board {
  id: string;
  name: string;
  /** Empty for none. */
  folder: string;
  /** ISO 4217. */
  currency: string;
  stages: BoardStage[];
  deals: BoardDeal[];
  /** Closed ones that are not shown. */
  closedBefore: number;
}

/** Closed deals stay on the board for so many days. */
const SHOWN_DAYS = 30;
const MOST = 1000;

/** The pipelines of the business, for choosing one. */
export async function listPipelines(use: Use): Promise<{ id: string; name: string; folder: string; open: number }[]> {
  const { rows } = await use.db.query<{ id: string; name: string; folder: string; open: number }>(
    `select p.id, p.name, p.folder, (select count(*)::int from deal d join lead l on l.id = d.lead_id where d.pipeline_id = p.id and d.closed_at is null
       and is_theirs(l.business_id, l.id, l.owner_id, $2)) as open
     from pipeline p where p.business_id = $1 and p.removed_at is null order by p.created_at`,
    [use.actor.businessId, use.actor.leadsOf],
  );
  return rows;
}

export async function getBoard(use: Use, pipelineId: string): Promise<Board> {
  const { db } = use;
  if (!z.uuid().safeParse(pipelineId).success) throw notHere('pipeline');
  const pipeline = (
    await db.query<{ name: string; folder: string; currency: string }>(
      'select name, folder, currency from pipeline where id = $1 and business_id = $2 and removed_at is null',
      [pipelineId, use.actor.businessId],
    )
  ).rows[0];
  if (!pipeline) throw notHere('pipeline');
  const [stages, deals, closed] = await Promise.all([
    db.query<BoardStage>('select id, name, ends from stage where pipeline_id = $1 order by position', [pipelineId]),
    db.query(
      `select d.id, d.lead_id, d.title, d.value, d.stage_id, d.next_step, d.created_at, d.moved_at, l.first_name, l.last_name, l.email, l.phone,
         coalesce(o.name, '') as owner, coalesce(w.name, m.name, '') as moved_by
       from deal d join lead l on l.id = d.lead_id left join person o on o.id = l.owner_id left join run r on r.id = d.run_id left join workflow w on w.id = r.workflow_id
         left join lateral (select p.name from deal_move v join person p on p.id = v.person_id where v.deal_id = d.id and v.at = d.moved_at limit 1) m on true
       where d.pipeline_id = $1 and (d.closed_at is null or d.closed_at > now() - $2 * interval '1 day')
         and is_theirs(l.business_id, l.id, l.owner_id, $4) order by d.moved_at desc limit $3`,
      [pipelineId, SHOWN_DAYS, MOST, use.actor.leadsOf],
    ),
    db.query<{ n: number }>(
      `select count(*)::int as n from deal d join lead l on l.id = d.lead_id where d.pipeline_id = $1 and d.closed_at <= now() - $2 * interval '1 day'
         and is_theirs(l.business_id, l.id, l.owner_id, $3)`,
      [pipelineId, SHOWN_DAYS, use.actor.leadsOf],
    ),
  ]);
  return {
    id: pipelineId,
    name: pipeline.name,
    folder: pipeline.folder,
    currency: pipeline.currency,
    stages: stages.rows,
    closedBefore: closed.rows[0]!.n,
    deals: deals.rows.map((row) => ({
      id: row.id,
      leadId: row.lead_id,
      lead: `${row.first_name} ${row.last_name}`.trim() || row.email || row.phone,
      title: row.title,
      value: row.value,
      stageId: row.stage_id,
      owner: row.owner,
      nextStep: row.next_step,
      createdAt: row.created_at.toISOString(),
      movedAt: row.moved_at.toISOString(),
      movedBy: row.moved_by,
    })),
  };
}

export const DealInput = z.object({
  stageId: z.uuid().optional(),
  title: z.string().trim().min(1, 'Give the deal a name').max(300).optional(),
  /** As people write money; empty for none. */
  value: z.string().trim().max(40).optional(),
  nextStep: z.string().trim().max(300).optional(),
});

export const NewDeal = z.object({
  leadId: z.uuid('Choose a lead'),
  pipelineId: z.uuid(),
  title: z.string().trim().max(300).default(''),
  /** As people write money; empty for none. */
  value: z.string().trim().max(40).default(''),
});

const amountOf = (value: string | undefined): number | null => {
  if (value === undefined || value === '') return null;
  const amount = readNumber(value);
  if (amount === null) throw new Refusal(422, 'value', `“${value}” is not an amount.`);
  return amount;
};

/** Opens a deal by hand, in the first stage of a pipeline; refused while the lead has an open one there. */
export async function openDeal(tx: Write, input: z.infer<typeof NewDeal>): Promise<{ id: string }> {
  demand(tx.actor, 'do-work');
  const value = amountOf(input.value);
  const id = uuidv7();
  const { rows } = await tx.db.query<{ stage: string; name: string }>(
    `select s.id as stage, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.email) as name
     from stage s join pipeline p on p.id = s.pipeline_id and p.removed_at is null, lead l
     where p.id = $1 and p.business_id = $3 and l.id = $2 and l.business_id = $3 and l.is_person order by s.position limit 1`,
    [input.pipelineId, input.leadId, tx.actor.businessId],
  );
  if (!rows[0]) throw notHere('lead or pipeline');
  const { stage, name } = rows[0];
  const { rowCount } = await tx.db.query(
    `insert into deal (id, business_id, lead_id, pipeline_id, stage_id, title, value, created_at, moved_at) values ($1, $2, $3, $4, $5, $6, $7, now(), now())
     on conflict (lead_id, pipeline_id) where closed_at is null do nothing`,
    [id, tx.actor.businessId, input.leadId, input.pipelineId, stage, input.title || name, value],
  );
  if (!rowCount)
    throw new Refusal(409, 'open-deal', `${name} has an open deal in this pipeline already. Move that one on.`);
  await noteMove(tx.db, id, { personId: tx.actor.personId });
  await tellOf(tx.db, input.leadId, { event: 'stage', stage });
  tx.note('deal.open', id, input);
  tx.ring();
  return { id };
}

/** Changes a deal by hand: its stage, name, value or next step. Moved, it wakes what waits for that stage. */
export async function changeDeal(tx: Write, id: string, input: z.infer<typeof DealInput>): Promise<void> {
  demand(tx.actor, 'do-work');
  const amount = amountOf(input.value);
  const { rows } = await tx.db.query<{ lead_id: string; pipeline_id: string; stage_id: string } & DealSaid>(
    'select lead_id, pipeline_id, stage_id, title, next_step, value::text, (select name from stage where id = stage_id) as stage from deal where id = $1 and business_id = $2 for update',
    [id, tx.actor.businessId],
  );
  const deal = rows[0];
  if (!deal) throw notHere('deal');
  await tx.db.query(
    `update deal set title = coalesce($2, title), next_step = coalesce($3, next_step), value = case when $4 then $5::numeric else value end where id = $1`,
    [id, input.title ?? null, input.nextStep ?? null, input.value !== undefined, amount],
  );
  if (input.stageId && input.stageId !== deal.stage_id) await moveDeal(tx, { ...deal, id }, input.stageId);
  const { rows: now } = await tx.db.query<DealSaid>(
    'select title, next_step, value::text, (select name from stage where id = stage_id) as stage from deal where id = $1',
    [id],
  );
  const said = ({ title, next_step, value, stage }: DealSaid) => ({ title, next_step, value, stage });
  tx.note(input.stageId ? 'deal.move' : 'deal.change', id, { before: said(deal), after: said(now[0]!) });
  tx.ring();
}

/** What a note says of a deal. */
interface DealSaid {
  title: string;
  next_step: string;
  value: string | null;
  stage: string;
}

/** Moves a deal to another stage of its pipeline. */
async function moveDeal(
  tx: Write,
  deal: { id: string; lead_id: string; pipeline_id: string },
  stageId: string,
): Promise<void> {
  const { rows } = await tx.db.query<{ ends: string | null }>(
    'select ends from stage where id = $1 and pipeline_id = $2',
    [stageId, deal.pipeline_id],
  );
  if (!rows[0]) throw notHere('stage');
  await tx.db.query(
    'update deal set stage_id = $2, moved_at = now(), run_id = null, closed_at = case when $3 then now() end where id = $1',
    [deal.id, stageId, rows[0].ends !== null],
  );
  await noteMove(tx.db, deal.id, { personId: tx.actor.personId });
  await tellOf(tx.db, deal.lead_id, { event: 'stage', stage: stageId });
}
