import { defineEntity, type InferEntity, p } from '@mikro-orm/core';
import type { AccessSettings } from '../../core/described/access.ts';
import type { Description } from '../../core/described/description.ts';
import type { SigningKey } from '../../core/mail/sending-domain.ts';
import type { FrontDoor } from '../../core/message/front-door.ts';
import type { SmppSettings } from '../../core/message/smpp/settings.ts';
import type { TableLookUp } from '../../core/outside/table-look-up.ts';
import type { WrittenTable } from '../../core/outside/written-table.ts';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';
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
  'service',
  'database',
  'mail_account',
  'file_place',
  'calendar_account',
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
  /** At a mail server: the key that signs what is sent, its private part sealed. */
  signing?: SigningKey & { sealed: string };
  /** At a mail server or mailbox: how access is allowed on its own page; its client secret is the secret. */
  access?: AccessSettings;
  /** PEM; an authority of the business's own, believed besides those everybody believes. */
  authority?: string;
  /** Where files are fetched by SFTP: the fingerprint of the server's key. */
  hostKey?: string;
  /** At a text carrier that is reached by SMPP. */
  smpp?: SmppSettings;
  /** At a database: what steps can ask of it. */
  lookUps?: TableLookUp[];
  /** Where files lie: tables steps write rows to. */
  tables?: WrittenTable[];
  /** At a chat network: who is served there. */
  frontDoor?: FrontDoor;
  /** How the service is called, where the business says so itself; what ships with Pine Bell where it does not. */
  description?: Description;
  /** What the description asks for and is not secret, by name. */
  values?: Record<string, string>;
}

/** What is known of how a service does, of its calls so far. */
export const ConnectionHealth = defineEntity({
  name: 'ConnectionHealth',
  tableName: 'connection_health',
  properties: {
    connection: () => p.manyToOne(Connection).ref().primary().deleteRule('cascade'),
    business: () => p.manyToOne(Business).ref(),
    lastOkAt: p.datetime().nullable(),
    /** Since when it has not answered well; null when it does. */
    troubleSince: p.datetime().nullable(),
    problem: p.text().default(''),
    /** When it was told that it does not answer, so that one trouble is told once; null when it was not. */
    toldAt: p.datetime().nullable(),
  },
});

/** What somebody has allowed at a service on its own page (OAuth 2): tokens that are renewed for as long as it lets us. */
export const ServiceGrant = defineEntity({
  name: 'ServiceGrant',
  tableName: 'service_grant',
  properties: {
    connection: () => p.manyToOne(Connection).ref().primary().deleteRule('cascade'),
    business: () => p.manyToOne(Business).ref(),
    /** Sealed; the token, and what renews it. */
    secret: p.text(),
    /** Of the client and the address it was given by: it is for no other. */
    givenBy: p.string().length(64),
    /** When it is to be renewed; null where it does not say how long it lasts. */
    renewAt: p.datetime().nullable(),
    renewedAt: p.datetime(),
    /** Until when one process has taken it to renew. */
    renewingUntil: p.datetime().nullable(),
    allowedAt: p.datetime(),
    allowedBy: () => p.manyToOne(Person).ref().nullable(),
    /** Since when it is worth nothing any more. */
    endedAt: p.datetime().nullable(),
    problem: p.text().default(''),
  },
});

/** What a service calls a message it took, where it reports by that and not by our key. Kept as long as reports may come. */
export const TakenMessage = defineEntity({
  name: 'TakenMessage',
  tableName: 'taken_message',
  indexes: [{ name: 'taken_message_delivery', properties: ['deliveryId'] }],
  properties: {
    connection: () => p.manyToOne(Connection).ref().primary().deleteRule('cascade'),
    remoteId: p.string().length(300).primary(),
    business: () => p.manyToOne(Business).ref(),
    deliveryId: p.uuid(),
    at: p.datetime(),
    /** Of a message that was taken in parts: what became of this one. */
    outcome: p.enum(['delivered', 'undelivered']).nullable(),
  },
});

/** When the next call may begin, at a service that allows so many in a second: shared by all processes. */
export const ServiceTurn = defineEntity({
  name: 'ServiceTurn',
  tableName: 'service_turn',
  properties: {
    connection: () => p.manyToOne(Connection).ref().primary().deleteRule('cascade'),
    business: () => p.manyToOne(Business).ref(),
    nextAt: p.datetime(),
  },
});

/** A part of a text that came in, until the others have come. */
export const TextPart = defineEntity({
  name: 'TextPart',
  tableName: 'text_part',
  indexes: [{ name: 'text_part_at', properties: ['at'] }],
  properties: {
    connection: () => p.manyToOne(Connection).ref().primary().deleteRule('cascade'),
    sender: p.string().length(60).primary(),
    recipient: p.string().length(60).primary(),
    /** Names the text among those of its sender. */
    reference: p.string().length(20).primary(),
    /** From 1, of `total`. */
    number: p.integer().primary(),
    total: p.integer(),
    business: () => p.manyToOne(Business).ref(),
    text: p.text(),
    at: p.datetime(),
  },
});

/** What a lead is called at a service it was put on record at. One for each kind of record there. */
export const ElsewhereRecord = defineEntity({
  name: 'ElsewhereRecord',
  tableName: 'elsewhere_record',
  properties: {
    lead: () => p.manyToOne(Lead).ref().primary().deleteRule('cascade'),
    /** The connection and the kind of record, "id:key". */
    place: p.string().length(120).primary(),
    business: () => p.manyToOne(Business).ref(),
    connection: () => p.manyToOne(Connection).ref().deleteRule('cascade'),
    /** Null while it is being made. */
    remoteId: p.string().length(300).nullable(),
    /** The run and step that began to make it, and when. */
    begunBy: p.string().length(60),
    begunAt: p.datetime(),
    madeAt: p.datetime().nullable(),
  },
});

/** The calls of one hour (UTC). */
export const ConnectionHour = defineEntity({
  name: 'ConnectionHour',
  tableName: 'connection_hour',
  properties: {
    connection: () => p.manyToOne(Connection).ref().primary().deleteRule('cascade'),
    hour: p.datetime().primary(),
    business: () => p.manyToOne(Business).ref(),
    calls: p.integer().default(0),
    failed: p.integer().default(0),
    /** Milliseconds, all calls together, and of the longest. */
    msTotal: p.bigint('number').default(0),
    msMost: p.integer().default(0),
  },
});

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
    /** The last day its key opens anything, where somebody said so. */
    keyUntil: p.date().nullable(),
    createdAt: p.datetime(),
    /** Since when it is gone for everybody but its history. */
    removedAt: p.datetime().nullable(),
  },
});
export type IConnection = InferEntity<typeof Connection>;
