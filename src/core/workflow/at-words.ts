import { spanWords } from '../time/span.ts';
import type { At } from './at.ts';

export interface AtNames {
  field(reference: string): string;
  source(id: string): string;
  tag(id: string): string;
  list(id: string): string;
  stage(id: string): string;
  /** What a step asks or sends, in a few words. */
  step(id: string): string;
  /** A time of day, as the business's country writes it. */
  clock(time: string): string;
}

const linesOf = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);

/** The heading of a moment: "10 minutes later", "Next working day, 09:00", "When they reply, or after 2 days". */
export function atWords(at: At, names: AtNames): string {
  switch (at.kind) {
    case 'on_arrival':
      return 'On arrival';
    case 'later':
      return `${spanWords(at.span)} later`;
    case 'time_of_day': {
      const day = at.workingDays ? 'working day' : 'day';
      const early = at.time < '12:00' && !at.workingDays ? 'morning' : day;
      return at.day === 'next_day'
        ? `Next ${early}, ${names.clock(at.time)}`
        : `At ${names.clock(at.time)}${at.workingDays ? ' on a working day' : ''}`;
    }
    case 'on_date': {
      const field = names.field(at.field);
      const time = at.time === null ? '' : `, ${names.clock(at.time)}`;
      return at.side === 'on' ? `On ${field}${time}` : `${spanWords(at.span)} ${at.side} ${field}${time}`;
    }
    case 'event':
      return `When ${eventWords(at, names)}, or after ${spanWords(at.within)}`;
  }
}

/** "they reply", "they reply yes or ok", "they come in by Bookings". */
export function eventWords(at: Extract<At, { kind: 'event' }>, names: AtNames): string {
  switch (at.event) {
    case 'reply': {
      const words = linesOf(at.words);
      return words.length === 0 ? 'they reply' : `they reply ${words.join(' or ')}`;
    }
    case 'arrival':
      return at.sources.length === 0
        ? 'they come in again'
        : `they come in by ${at.sources.map((id) => names.source(id)).join(' or ')}`;
    case 'tag':
      return `they get the tag ${names.tag(at.tag)}`;
    case 'list':
      return `they join ${names.list(at.list)}`;
    case 'stage':
      return `their deal comes to ${names.stage(at.stage)}`;
    case 'answer':
      return `they answer ${names.step(at.step)}`;
    case 'form':
      return at.step === '' ? 'they fill in a form' : `they fill in the form of ${names.step(at.step)}`;
    case 'link':
      return at.step === '' ? 'they click a link' : `they click a link in ${names.step(at.step)}`;
    case 'opened':
      return at.step === '' ? 'they open an email' : `they open ${names.step(at.step)}`;
  }
}
