import { keepAnswer } from '../app/conversations/answer-by-hand.ts';
import { createChatTemplate, saveChatTemplate, sendForReview } from '../app/messages/chat-templates.ts';
import type { Use } from '../app/use.ts';

/**
 * Whoever has written so far has a conversation; the newest are not read yet, the older ones are done. Two answers are kept, and a
 * template to begin in chat is out for review.
 */
export async function growConversations(use: Use): Promise<void> {
  await use.runtime.pool.query(
    `insert into conversation (id, business_id, lead_id, sender, channel, last_text, last_in, last_at, unread, done_at)
     select gen_random_uuid(), i.business_id, i.lead_id, i.sender, i.channel, left(coalesce(o.text, i.text), 200), o.text is null, coalesce(o.at, i.received_at),
       case when row_number() over (order by i.received_at desc) <= 3 then 1 else 0 end,
       case when row_number() over (order by i.received_at desc) > 12 then i.received_at + interval '2 hours' end
     from (select distinct on (lead_id) * from inbound where business_id = $1 and lead_id is not null order by lead_id, received_at desc) i
     left join lateral (select d.message ->> 'text' as text, d.accepted_at as at from delivery d
       where d.lead_id = i.lead_id and d.audience = 'lead' and d.accepted_at > i.received_at and d.accepted_at < i.received_at + interval '1 day' order by d.accepted_at desc limit 1) o on true`,
    [use.actor.businessId],
  );
  await use.write((tx) =>
    keepAnswer(tx, {
      name: 'What a trial lesson costs',
      text: 'Hi {{ lead.first_name }}, the first lesson is free. After that it is £18 for half an hour, and you can stop any month.',
    }),
  );
  const { id } = await use.write((tx) => createChatTemplate(tx, { name: 'Trial lesson: hello' }));
  await use.write((tx) =>
    saveChatTemplate(tx, id, {
      kind: 'service',
      heading: 'Your trial lesson',
      text: 'Hi {{ lead.first_name }}, thank you for asking about lessons. Shall we find a time for your first one?',
      closing: 'Wrenfield Music School',
      buttons: ['Yes, this week', 'Call me', 'Not now'],
      form: '',
      samples: { 'lead.first_name': 'Robin' },
    }),
  );
  await sendForReview(use, id);
  await use.write((tx) =>
    keepAnswer(tx, {
      name: 'Parking',
      text: 'There are four places behind the school, and the street is free after six.',
    }),
  );
}
