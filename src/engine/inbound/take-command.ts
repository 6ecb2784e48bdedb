import { v5 as uuidv5, v7 as uuidv7 } from 'uuid';
import { type Command, type CommandLanguage, commandAnswer } from '../../core/message/command-words.ts';
import { measureText } from '../../core/message/text-segments.ts';
import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import type { Db } from '../../db/db.ts';
import { COMMAND_STEP } from '../../db/hot/message-kinds.ts';
import { enqueue } from '../delivery/enqueue.ts';
import { closeQuestions } from './answer-question.ts';
import { endDoubt } from './doubt.ts';
import { leadsOfNumber } from './leads-of-number.ts';

export interface Commanded {
  businessId: string;
  connectionId: string;
  leadId: string;
  channel: 'text' | 'chat';
  sender: string;
  /** The message's id at the carrier, and its words. */
  remoteId: string;
  /** As it was kept. */
  inboundId: string;
  words: string;
  /** When it was written, ISO 8601. */
  at: string;
}

/**
 * Does what a STOP, START or HELP asks for, in the transaction of `client`: consent withdrawn or given again for this channel alone,
 * and one answer. Said again it is not answered again: a STOP of who has stopped, a START of who has not, a second HELP in a day.
 */
export async function takeCommand(
  client: Db,
  { command, language }: { command: Command; language: CommandLanguage },
  { businessId, connectionId, leadId, channel, sender, remoteId, inboundId, words, at }: Commanded,
): Promise<void> {
  const { rows } = await client.query<{ state: string | null; name: string; sender: string; helped: boolean }>(
    `select b.name, coalesce(c.settings ->> 'sender', '') as sender,
       consents_of($3, 'service') ->> $4 as state,
       exists (select from delivery d where d.lead_id = $3 and d.step_id = '${COMMAND_STEP}' and d.channel = $4 and d.created_at > now() - interval '1 day') as helped
     from connection c join business b on b.id = c.business_id where c.id = $1 and b.id = $2`,
    [connectionId, businessId, leadId, channel],
  );
  const known = rows[0];
  if (!known) return;
  const withdrawn = known.state === 'withdrawn';
  if ((command === 'stop' && withdrawn) || (command === 'start' && !withdrawn)) return;
  // A STOP is for the number: whoever else gave it is not written to there any more either.
  const whose = command === 'stop' ? new Set([leadId, ...(await leadsOfNumber(client, businessId, sender))]) : [leadId];
  for (const one of command === 'help' ? [] : whose)
    await client.query(
      `insert into consent (id, business_id, lead_id, channel, state, wording, how, at, inbound_id) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
      [
        ...[uuidv7(), businessId, one, channel, command === 'stop' ? 'withdrawn' : 'given', words],
        ...[one === leadId ? `Wrote back by ${channel}` : `Written by ${channel} from the number they share`, at],
        inboundId,
      ],
    );
  if (command === 'stop') for (const one of whose) await closeQuestions(client, one);
  if (command !== 'help') await endDoubt(client, businessId, leadId, channel);
  if (command === 'help' && (known.helped || withdrawn)) return;
  const text = commandAnswer(command, language, known.name);
  const about = { audience: 'lead', to: sender, from: known.sender, text } as const;
  const message: OutgoingMessage =
    channel === 'text' ? { ...about, channel, parts: measureText(text).parts } : { ...about, channel };
  const id = uuidv5(`${command}:${remoteId}`, connectionId);
  await enqueue(client, [{ id, businessId, stepId: COMMAND_STEP, leadId, at: new Date(), message, connectionId }]);
}
