import { defineEntity, p } from '@mikro-orm/core';
import type { NoticeKind } from '../../core/notices/notices.ts';

/** What switching the practice world on has changed about a business beside its connections: taken back when it is removed. */
export interface PracticeWorld {
  /** ISO 8601. */
  since: string;
  /** Countries that may be texted since then. */
  countries: string[];
}

/** A customer of Pine Bell: everything else belongs to one. */
export const Business = defineEntity({
  name: 'Business',
  tableName: 'business',
  properties: {
    id: p.uuid().primary(),
    name: p.string(),
    /** ISO 3166-1 alpha-2; assumed for phone numbers without a prefix. */
    country: p.string().length(2),
    locale: p.string(),
    /** IANA name. */
    timeZone: p.string(),
    /** Days nobody works, "YYYY-MM-DD". */
    holidays: p.json<string[]>().default([]),
    /** Whether followed links and opened emails are counted. */
    countsLinks: p.boolean().default(true),
    /** Marketing messages one person gets in a day at most, whatever sends them; 0 for no limit. */
    marketingPerDay: p.integer().default(3),
    countsOpens: p.boolean().default(true),
    /** Countries that may be texted; null until somebody has looked: then those of its customers. */
    textCountries: p.json<string[]>().nullable(),
    /** Most parts of texts that go out in a day. */
    textPartsPerDay: p.integer().default(2000),
    /** What one part costs, in the currency of the carrier's bill; 0 when nobody said. */
    textPartCost: p.decimal('number').precision(10).scale(4).default(0),
    /** Months what came in is kept as it was sent; null for good. */
    keepsSentMonths: p.integer().nullable(),
    /** The first visit's page: open, left by hand, or done because a lead has been answered. */
    firstSteps: p.enum(['open', 'left', 'done']).default('open'),
    /** The practice world, while it is on. */
    practice: p.json<PracticeWorld>().nullable(),
    createdAt: p.datetime(),
  },
});

/** Parts of texts a business has sent on a day of its own clock. */
export const TextDay = defineEntity({
  name: 'TextDay',
  tableName: 'text_day',
  properties: { businessId: p.uuid().primary(), day: p.date().primary(), parts: p.integer().default(0) },
});

/** A login. */
export const Person = defineEntity({
  name: 'Person',
  tableName: 'person',
  properties: {
    id: p.uuid().primary(),
    email: p.string().unique(),
    name: p.string(),
    passwordHash: p.text(),
    createdAt: p.datetime(),
  },
});

/** What a person may do in a business, and where "send it to me" goes. */
export const Membership = defineEntity({
  name: 'Membership',
  tableName: 'membership',
  uniques: [{ name: 'membership_one', properties: ['business', 'person'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    person: () => p.manyToOne(Person).ref(),
    role: p.enum(['owner', 'coordinator', 'viewer']),
    testEmail: p.string().default(''),
    testPhone: p.string().default(''),
    /** Takes no turns until then. */
    awayUntil: p.datetime().nullable(),
    /** Names the address of their calendar feed; null until they ask for one. */
    calendarKey: p.string().nullable().unique(),
  },
});

/** A sign-in that is still good. The id is the SHA-256 of the token in the cookie. */
export const Session = defineEntity({
  name: 'Session',
  tableName: 'session',
  indexes: [{ name: 'session_expires', properties: ['expiresAt'] }],
  properties: {
    id: p.string().primary(),
    person: () => p.manyToOne(Person).ref(),
    business: () => p.manyToOne(Business).ref(),
    createdAt: p.datetime(),
    expiresAt: p.datetime(),
  },
});

/** A device of somebody's own, and what they are told of there (W3C Push API). The keys are the device's public ones. */
export const PushDevice = defineEntity({
  name: 'PushDevice',
  tableName: 'push_device',
  uniques: [{ name: 'push_device_endpoint', properties: ['business', 'person', 'endpoint'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    person: () => p.manyToOne(Person).ref().deleteRule('cascade'),
    /** Where its push service takes what is for it. */
    endpoint: p.text(),
    p256dh: p.text(),
    auth: p.text(),
    /** What its owner knows it by. */
    name: p.text(),
    /** It stands on the practice desk. */
    practice: p.boolean().default(false),
    wants: p.array((kind) => kind as NoticeKind),
    createdAt: p.datetime(),
    /** What came up to then has been told. */
    toldUntil: p.datetime(),
    /** The last notice that was taken. */
    toldAt: p.datetime().nullable(),
    notBefore: p.datetime().nullable(),
    leaseUntil: p.datetime().nullable(),
    failures: p.integer().default(0),
    problem: p.text().nullable(),
  },
});
/** How often somebody guessed of late, for slowing down guessing. */
export const Guess = defineEntity({
  name: 'Guess',
  tableName: 'guess',
  properties: {
    /** What was guessed at, and from where: only as a hash. */
    key: p.string().primary(),
    guesses: p.integer(),
    since: p.datetime(),
  },
});

export const Audit = defineEntity({
  name: 'Audit',
  tableName: 'audit',
  indexes: [{ name: 'audit_business_at', properties: ['business', 'at'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    person: () => p.manyToOne(Person).ref().nullable(),
    at: p.datetime(),
    /** A verb and a thing: "workflow.put_live". */
    action: p.string(),
    subject: p.string(),
    detail: p.json<Record<string, unknown>>(),
  },
});
