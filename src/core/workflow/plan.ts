import type { Channel, RunPerson } from './run-context.ts';

/** A text ready to go: to one E.164 number. */
export interface TextMessage {
  channel: 'text';
  audience: 'lead' | 'team';
  to: string;
  from: string;
  text: string;
  parts: number;
}

/** An email ready to go: to one address. */
export interface EmailMessage {
  channel: 'email';
  audience: 'lead' | 'team';
  to: string;
  toName: string;
  from: { name: string; address: string };
  replyTo: string | null;
  subject: string;
  text: string;
  html: string;
}

export type OutgoingMessage = TextMessage | EmailMessage;

export interface FieldChange {
  field: keyof RunPerson;
  before: string;
  after: string;
  /** What could not be tidied, in words; null when all is well. */
  problem: string | null;
}

/** Why a step does nothing. `code` is for machines, `text` is read by the coordinator. */
export interface StopReason {
  code: 'switched_off' | 'no_consent' | 'withdrawn' | 'no_address' | 'bad_address' | 'empty' | 'template' | 'no_sender';
  text: string;
  channel?: Channel;
}

/** Exactly what a step would do: the outcome of its definition and the context, before anything is done. */
export type Plan =
  | { does: 'change'; changes: FieldChange[] }
  | { does: 'send'; message: OutgoingMessage }
  | { does: 'nothing'; why: StopReason }
  /** Cannot be done as it stands; a person has to look. */
  | { does: 'ask'; why: StopReason };
