import type { AnswerKind } from '../message/check-answer.ts';
import { readReference, referenceLabel } from '../template/field-reference.ts';
import type { Channel } from './channel.ts';
import type { Purpose } from './purpose.ts';
import type { Version } from './trial.ts';

/** What a message is for, where it is not simply about what they asked for. */
interface ForPurpose {
  /** Links that somebody typed into a field: they stay as they are, and never become addresses of ours. */
  uncounted?: string[];
  purpose?: Purpose;
  /** Which version of a step that is tried in two it is. */
  trial?: { id: string; version: Version };
}

/** A text ready to go: to one E.164 number. */
export interface TextMessage extends ForPurpose {
  channel: 'text';
  audience: 'lead' | 'team';
  to: string;
  from: string;
  text: string;
  parts: number;
  /** Links in it are shortened, and counted when they are followed. */
  countLinks?: boolean;
}

/** A message in chat: to one E.164 number. */
export interface ChatMessage extends ForPurpose {
  channel: 'chat';
  audience: 'lead' | 'team';
  to: string;
  from: string;
  /** As it is read on a phone, of a template too. */
  text: string;
  countLinks?: boolean;
  /** An approved template with the values of its fields; none for a free message. */
  template?: { id: string; fields: Record<string, string> };
  /** A line above the text and one below it, of a free message. */
  heading?: string;
  closing?: string;
  /** What can be tapped for an answer. */
  buttons?: string[];
  form?: SentForm;
}

/** A form that can be opened in the chat. */
export interface SentForm {
  formId: string;
  versionId: string;
  /** What the network calls this version. */
  remoteId: string;
  name: string;
  /** On the button that opens it. */
  open: string;
  /** Comes back with the answers; given when the message is made. */
  token?: string;
}

/** An email ready to go: to one address. */
export interface EmailMessage extends ForPurpose {
  channel: 'email';
  audience: 'lead' | 'team';
  to: string;
  toName: string;
  from: { name: string; address: string };
  replyTo: string | null;
  /** Others who get it too: seen by all, and not seen. */
  cc?: string[];
  bcc?: string[];
  subject: string;
  text: string;
  html: string;
  countLinks?: boolean;
  /** Of a template: its words are not changed by hand. */
  laidOut?: boolean;
  /** Whether an opened email is counted. */
  countOpens?: boolean;
  attachments?: Attachment[];
  /** Further headers, by name. */
  headers?: Record<string, string>;
}

/** Something attached to an email: a file kept here, or an address it is fetched from when the email goes out. */
export type Attachment =
  | { from: 'file'; fileId: string; name: string; bytes: number }
  | { from: 'address'; url: string; name: string };

export type OutgoingMessage = TextMessage | EmailMessage | ChatMessage;

/** What the answer to a question has to be. */
export interface Question {
  kind: AnswerKind;
  /** For a choice: what can be chosen. */
  choices: string[];
  /** Where the answer goes: a reference as in a message. */
  saveAs: string;
  /** What is sent when an answer does not fit. */
  hint: string;
  /** Asked this often at most, the first time included. */
  most: number;
  /** Days after which an answer is an ordinary reply again. */
  forDays: number;
}

export interface FieldChange {
  /** A field of the person ("first_name"), or an answer ("answers.instrument"). */
  field: string;
  before: string;
  after: string;
  /** What could not be tidied, in words; null when all is well. */
  problem: string | null;
}

/** The name of the field that is changed, as people read it. */
export function changeLabel(field: string): string {
  const read = readReference(field.includes('.') || field.includes('[') ? field : `lead.${field}`);
  return read ? referenceLabel(read) : field;
}

/** Why a step does nothing. `code` is for machines, `text` is read by the coordinator. */
export interface StopReason {
  code:
    | 'switched_off'
    | 'guard'
    | 'no_consent'
    | 'withdrawn'
    | 'no_address'
    | 'bad_address'
    | 'never_texted'
    | 'other_country'
    | 'empty'
    | 'template'
    | 'no_sender'
    | 'not_found'
    | 'gone'
    | 'lane_stopped'
    | 'not_repeated'
    | 'window_shut';
  text: string;
  channel?: Channel;
}

/** A field that gets a new value by a step: for the steps after it. */
export interface FieldSet {
  /** "tag.ID" or "list.ID" for a tag or a list they are on or off ("yes" or ""); or a reference as in a message: "answers.level", "found["company.name"]". */
  reference: string;
  value: string;
}

/** Exactly what a step would do: the outcome of its definition and the context, before anything is done. */
export type Plan =
  | { does: 'change'; changes: FieldChange[] }
  | {
      does: 'send';
      message: OutgoingMessage;
      /** Put up for a person to read, mend and send. */
      draft?: boolean;
      /** A colleague does not work before then; milliseconds. */
      notBefore?: number;
      /** The message asks this, and the answer is waited for. */
      question?: Question;
      /** What else there is to know, in a sentence: until when it could go out, or why another goes instead. */
      note?: string;
    }
  /** Something in our own database, done in one transaction with the note that it is done. `sets` is what holds afterwards. */
  | { does: 'record'; words: string; what: unknown; sets?: FieldSet[] }
  /** A question to our own records; its answer becomes fields. `ends` says what ends when nothing is found. */
  | { does: 'look'; words: string; what: unknown; ends?: 'moment' | 'run' }
  /** A request to an outside service. */
  | { does: 'call'; words: string; what: unknown; ends?: 'moment' | 'run' }
  /** A check that holds. */
  | { does: 'pass'; words: string }
  /** A check that does not: the moment ends here, or the whole run. */
  | { does: 'end'; ends: 'moment' | 'run'; why: { code: 'check'; text: string } }
  | { does: 'nothing'; why: StopReason }
  /** Cannot be done as it stands; a person has to look. */
  | { does: 'ask'; why: StopReason };
