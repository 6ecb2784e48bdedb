import { defineEntity, type InferEntity, p } from '@mikro-orm/core';
import type { FrontDoor } from '../../core/message/front-door.ts';
import { Business } from './business.ts';
import { PRESENT } from './present.ts';

export const CONNECTION_KINDS = [
  'text_carrier',
  'mail_server',
  'ad_platform',
  'funnel_host',
  'shop',
  'booking_calendar',
  'company_directory',
  'chat_network',
] as const;
export type ConnectionKind = (typeof CONNECTION_KINDS)[number];

/** Settings by kind; the secret is sealed apart. */
export interface ConnectionSettings {
  /** Base address: http(s) for the carrier and the ad platform, smtp(s)://host:port for mail. */
  address: string;
  /** What a text is sent from: a number or a name of at most 11 characters. */
  sender?: string;
  /** Further senders a text can be sent from, one chosen in the step. */
  senders?: string[];
  fromName?: string;
  fromAddress?: string;
  user?: string;
  /** Mail that cannot be delivered comes back to us, and is understood. */
  bounces?: boolean;
  /** Answers to emails come to us, into the conversation. */
  replies?: boolean;
  /** At a chat network: who is served there. */
  frontDoor?: FrontDoor;
}

/** An account of an outside service. */
export const Connection = defineEntity({
  name: 'Connection',
  tableName: 'connection',
  indexes: [{ name: 'connection_business', properties: ['business', 'kind'] }],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    kind: p.enum([...CONNECTION_KINDS]),
    name: p.string(),
    /** Where it is kept among others; empty for none. */
    folder: p.string().length(60).default(''),
    settings: p.json<ConnectionSettings>(),
    /** Sealed with AES-256-GCM; password, key or token towards the service. */
    secret: p.text().nullable(),
    /** Names our address for reports from the service. */
    reportKey: p.string().unique(),
    /** Sealed; signs what the service reports to us. */
    reportSecret: p.text(),
    /** An account at the practice desk: goes with everything that came by it when the practice world is removed. */
    practice: p.boolean().default(false),
    createdAt: p.datetime(),
    /** Since when it is gone for everybody but its history. */
    removedAt: p.datetime().nullable(),
  },
});
export type IConnection = InferEntity<typeof Connection>;
