import { defineEntity, p } from '@mikro-orm/core';
import type { NoticeKind } from '../../core/notices/notices.ts';
import type { QuietHours } from '../../core/notices/telling.ts';
import { ROLES, WHOSE_LEADS } from '../../core/people/rights.ts';
import type { WorkingTime } from '../../core/people/working-time.ts';

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
    /** How it is called in addresses: "wrenfield-music-school". Stays as it is. */
    key: p.string().length(40).unique().defaultRaw("replace((gen_random_uuid())::text, '-'::text, ''::text)"),
    /** What its bar looks like; one of BUSINESS_COLORS. */
    color: p.string().length(20).default('pine'),
    /** When an owner has removed it: it can be put back for some days. */
    removedAt: p.datetime().nullable(),
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
    /** Months notes of who changed what are kept; null for good. */
    keepsNotesMonths: p.integer().nullable(),
    /** The first visit's page: open, left by hand, or done because a lead has been answered. */
    firstSteps: p.enum(['open', 'left', 'done']).default('open'),
    /** Whether everybody here signs in with more than a password. */
    demandsSecond: p.boolean().default(false),
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
    /** Empty for whoever signs in elsewhere only. */
    passwordHash: p.text(),
    /** The secret their codes are made from (RFC 6238), sealed; null while they use none. */
    totp: p.text().nullable(),
    /** The time step whose code was used last: none is good twice. */
    totpStep: p.bigint('number').default(0),
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
    role: p.enum([...ROLES]),
    /** Whose leads they work with; at the desk only. */
    whoseLeads: p.enum([...WHOSE_LEADS]).default('all'),
    testEmail: p.string().default(''),
    testPhone: p.string().default(''),
    /** When they work, by the business's clock; null for always. */
    working: p.json<WorkingTime>().nullable(),
    /** In which language dates and numbers are written for them; null for the business's. */
    locale: p.string().length(20).nullable(),
    /** When they are told nothing, by the business's clock; null for never. */
    quiet: p.json<QuietHours>().nullable(),
    /** When they get what waits for them by email, "HH:MM"; null for never. */
    summaryAt: p.string().length(5).nullable(),
    /** The day of the last, by the business's clock. */
    summaryOn: p.date().nullable(),
    /** Takes no turns until then. */
    awayUntil: p.datetime().nullable(),
    /** Names the address of their calendar feed; null until they ask for one. */
    calendarKey: p.string().nullable().unique(),
  },
});

/** How somebody has proved who they are. */
export const SIGN_IN_BY = ['password', 'second', 'key', 'sign-on'] as const;

/** A sign-in that is still good. The id is the SHA-256 of the token in the cookie. */
export const Session = defineEntity({
  name: 'Session',
  tableName: 'session',
  indexes: [{ name: 'session_expires', properties: ['expiresAt'] }],
  properties: {
    id: p.string().primary(),
    /** What it is called where sign-ins are listed: not what opens it. */
    publicId: p.uuid().unique(),
    person: () => p.manyToOne(Person).ref(),
    business: () => p.manyToOne(Business).ref(),
    createdAt: p.datetime(),
    expiresAt: p.datetime(),
    /** To the minute: looked at to tell a device in use from one forgotten. */
    usedAt: p.datetime(),
    /** Browser and system in words, "Firefox on Windows". */
    device: p.string().length(100).default(''),
    /** The network address it was last used from. */
    network: p.string().length(60).default(''),
    how: p.enum([...SIGN_IN_BY]).default('password'),
    /** The only business it opens: of whoever was let in by that business's own sign-on. */
    within: p.uuid().nullable(),
    /** When whoever uses it has proved last who they are. */
    provedAt: p.datetime(),
  },
});

/** A code for whoever has lost their phone: good once. */
export const RecoveryCode = defineEntity({
  name: 'RecoveryCode',
  tableName: 'recovery_code',
  properties: {
    person: () => p.manyToOne(Person).ref().primary().deleteRule('cascade'),
    /** Keyed SHA-256 of the code. */
    hash: p.string().length(64).primary(),
  },
});

/** A key on a device of somebody's (W3C Web Authentication). Only its public half is here. */
export const Passkey = defineEntity({
  name: 'Passkey',
  tableName: 'passkey',
  indexes: [{ name: 'passkey_person', properties: ['person'] }],
  properties: {
    id: p.uuid().primary(),
    person: () => p.manyToOne(Person).ref().deleteRule('cascade'),
    /** As the authenticator names it, base64url. */
    credential: p.text().unique(),
    /** COSE (RFC 9052). */
    publicKey: p.blob(),
    /** Signatures it has made, as it counts; 0 where it does not. */
    counter: p.bigint('number').default(0),
    transports: p.array(),
    /** What its owner knows it by. */
    name: p.string().length(100),
    createdAt: p.datetime(),
    usedAt: p.datetime().nullable(),
  },
});

/** Something somebody has begun that takes them elsewhere and back: proving a key, signing in with another service. Good once, for some minutes. */
export const Errand = defineEntity({
  name: 'Errand',
  tableName: 'errand',
  properties: {
    /** SHA-256 of what their browser holds. */
    id: p.string().length(64).primary(),
    kind: p.enum(['key-new', 'key-use', 'second', 'sign-on', 'access']),
    what: p.json<Record<string, string>>(),
    expiresAt: p.datetime(),
  },
});

/** How a business lets its people in by a sign-in of its own (OpenID Connect). */
export const SignOn = defineEntity({
  name: 'SignOn',
  tableName: 'sign_on',
  properties: {
    business: () => p.oneToOne(Business).ref().primary().owner().deleteRule('cascade'),
    issuer: p.text(),
    clientId: p.text(),
    /** Sealed; null for a client without one. */
    secret: p.text().nullable(),
    /** Of addresses that may come in by it, in small letters. */
    domains: p.json<string[]>(),
    /** What whoever is new becomes; null where only who is invited comes in. */
    newcomers: p.enum([...ROLES]).nullable(),
    /** Passwords and keys no longer open this business, but to its owners. */
    only: p.boolean().default(false),
  },
});

/** Who somebody is elsewhere: an issuer and its name for them, which never changes. */
export const OuterIdentity = defineEntity({
  name: 'OuterIdentity',
  tableName: 'outer_identity',
  properties: {
    issuer: p.string().primary(),
    subject: p.string().primary(),
    /** Of the business whose sign-on it came by. */
    business: () => p.manyToOne(Business).ref().primary().deleteRule('cascade'),
    person: () => p.manyToOne(Person).ref().deleteRule('cascade'),
    createdAt: p.datetime(),
  },
});

/** People who share their leads. Somebody can be in several. */
export const Team = defineEntity({
  name: 'Team',
  tableName: 'team',
  uniques: [{ name: 'team_name', properties: ['business', 'name'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    name: p.string().length(60),
  },
});

export const TeamMember = defineEntity({
  name: 'TeamMember',
  tableName: 'team_member',
  indexes: [{ name: 'team_member_membership', properties: ['membership'] }],
  properties: {
    team: () => p.manyToOne(Team).ref().primary().deleteRule('cascade'),
    membership: () => p.manyToOne(Membership).ref().primary().deleteRule('cascade'),
  },
});

/** Somebody is asked in, by a link we have signed: good once, until it runs out or is withdrawn. */
export const Invitation = defineEntity({
  name: 'Invitation',
  tableName: 'invitation',
  indexes: [{ name: 'invitation_business', properties: ['business'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    /** Empty for a link to hand over: whoever follows it says theirs. */
    email: p.string().length(320).default(''),
    name: p.string().length(200).default(''),
    role: p.enum([...ROLES]),
    whoseLeads: p.enum([...WHOSE_LEADS]).default('all'),
    /** Ids of teams. */
    teams: p.json<string[]>(),
    /** Links of earlier rounds are no longer good. */
    round: p.integer().default(0),
    /** When its email went out; null before, and for a link to hand over. */
    mailedAt: p.datetime().nullable(),
    /** Why the email does not go out; empty when it did. */
    trouble: p.text().default(''),
    by: () => p.manyToOne(Person).ref(),
    createdAt: p.datetime(),
    expiresAt: p.datetime(),
    withdrawnAt: p.datetime().nullable(),
    acceptedAt: p.datetime().nullable(),
  },
});

/** Somebody wants a new password. Good once, for half an hour; a newer one takes its place. */
export const PasswordReset = defineEntity({
  name: 'PasswordReset',
  tableName: 'password_reset',
  properties: {
    /** Named by the link. */
    id: p.uuid().primary(),
    person: () => p.oneToOne(Person).ref().owner().deleteRule('cascade'),
    askedAt: p.datetime(),
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
/** How somebody is told of what comes beside their devices: by email, or by text. */
export const NoticeWay = defineEntity({
  name: 'NoticeWay',
  tableName: 'notice_way',
  uniques: [{ name: 'notice_way_one', properties: ['business', 'person', 'by'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    person: () => p.manyToOne(Person).ref().deleteRule('cascade'),
    by: p.enum(['email', 'text']),
    wants: p.array((kind) => kind as NoticeKind),
    /** What came up to then has been told. */
    toldUntil: p.datetime(),
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
  indexes: [
    { name: 'audit_business_at', properties: ['business', 'at'] },
    {
      name: 'audit_unsealed',
      expression: `create index "audit_unsealed" on "audit" ("business_id") where "seal" is null`,
    },
    { name: 'audit_business_no', properties: ['business', 'no'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    person: () => p.manyToOne(Person).ref().nullable(),
    at: p.datetime(),
    /** Its place in the chain and its seal (db/audit-chain.sql.ts); null until it is chained. */
    no: p.bigint('number').nullable(),
    seal: p.string().length(64).nullable(),
    /** Of the words it had, also where they have gone with somebody who was erased. */
    detailHash: p.string().length(64).default(''),
    /** A verb and a thing: "workflow.put_live". */
    action: p.string(),
    subject: p.string(),
    detail: p.json<Record<string, unknown>>(),
  },
});

/** Where the chain of a business's notes begins and ends. */
export const AuditChain = defineEntity({
  name: 'AuditChain',
  tableName: 'audit_chain',
  properties: {
    business: () => p.oneToOne(Business).ref().primary().owner().deleteRule('cascade'),
    no: p.bigint('number').default(0),
    seal: p.string().length(64).default(''),
    /** Of the last note that is no longer kept. */
    fromNo: p.bigint('number').default(0),
    fromSeal: p.string().length(64).default(''),
  },
});
