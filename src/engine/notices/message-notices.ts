import type pg from 'pg';
import type { Answer } from '../../core/delivery/answer.ts';
import { mayNotText } from '../../core/message/may-text.ts';
import { measureText } from '../../core/message/text-segments.ts';
import { noticesAsEmail, noticesAsText } from '../../core/notices/telling.ts';
import { readPhone } from '../../core/people/phone.ts';
import { emailToColleague } from '../../steps/email-to-colleague.ts';
import { type Outside, performSend } from '../../steps/performers.ts';
import { LOOK_AGAIN_MS, type TextAllowance } from '../delivery/text-allowance.ts';
import type { SettingsCache } from '../settings-cache.ts';
import { uuidOf } from '../uuid-of.ts';
import { type DueWay, noticeLoop, type Telling } from './notice-loop.ts';

interface Way extends DueWay {
  by: 'email' | 'text';
}

export interface MessageNoticeParts {
  pool: pg.Pool;
  settingsCache: SettingsCache;
  outside: Outside;
  texts: TextAllowance;
  publicUrl: string;
  now: () => number;
  random: () => number;
}

/** The first is told at once; what comes in the next minutes is told together. */
const PAUSE_MS = 5 * 60_000;

const tellingOf = (answer: Answer): Telling =>
  // What may have arrived is not told a second time.
  answer.kind === 'accepted' || answer.kind === 'unsure'
    ? { kind: 'taken' }
    : answer.kind === 'refused'
      ? { kind: 'refused', problem: answer.detail }
      : { kind: 'later', problem: answer.detail, afterMs: answer.afterMs };
const later = (problem: string): Telling => ({ kind: 'later', problem, afterMs: 60_000 });

/** Tells people by email and by text what has come in, by the business's own accounts. */
export const messageNotices = (parts: MessageNoticeParts) =>
  noticeLoop<Way>(parts, {
    name: 'notices by message',
    table: 'notice_way',
    columns: ['by'],
    pauseMs: PAUSE_MS,
    async tell(way, notices) {
      const { catalogue, accounts } = await parts.settingsCache.provisionsOf(way.business_id);
      const who = catalogue.colleagues.find(({ id }) => id === way.person_id);
      if (!who) return { kind: 'gone' };
      const address = `${parts.publicUrl}/at/${way.key}`;
      // The same news under the same key: handed over twice, it is one message.
      const key = uuidOf(`notice ${way.id} ${way.told_until.toISOString()}`);
      if (way.by === 'email') {
        const account = catalogue.email && accounts.get(catalogue.email.connectionId);
        if (!catalogue.email || !account)
          return later('There is no mail server to tell you by. An owner adds one under Connections.');
        const { subject, text } = noticesAsEmail(way.business, notices, address);
        return tellingOf(
          await performSend(parts.outside, account, emailToColleague(catalogue.email, who, subject, text), key),
        );
      }
      const account = catalogue.text && accounts.get(catalogue.text.connectionId);
      if (!catalogue.text || !account)
        return later('There is no text carrier to tell you by. An owner adds one under Connections.');
      const { country } = await parts.settingsCache.businessOf(way.business_id);
      const phone = readPhone(who.phone, country);
      if (!phone.ok)
        return { kind: 'refused', problem: 'Your phone is not said, or cannot be read: say it under You.' };
      const barred = mayNotText(phone, catalogue.textCountries);
      if (barred) return { kind: 'refused', problem: barred.text };
      const text = noticesAsText(way.business, notices, address);
      const size = measureText(text).parts;
      if (!(await parts.texts.take(way.business_id, size, way.time_zone)))
        return {
          kind: 'later',
          problem: 'As many texts as may go out in a day have gone out.',
          afterMs: LOOK_AGAIN_MS,
        };
      return tellingOf(
        await performSend(
          parts.outside,
          account,
          { channel: 'text', audience: 'team', to: phone.e164, from: catalogue.text.from, text, parts: size },
          key,
        ),
      );
    },
  });
