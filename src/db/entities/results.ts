import { defineEntity, p } from '@mikro-orm/core';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';

/*
 * What results are reckoned from and kept in (decision 59). What is credited outlives the lead it came of: who is erased is counted and is nobody.
 */

/** A place contacts come from, each once: core/results/origin.ts. */
export const Origin = defineEntity({
  name: 'Origin',
  tableName: 'origin',
  uniques: [{ name: 'origin_key', properties: ['business', 'key'] }],
  properties: {
    id: p.integer().primary().autoincrement(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    /** MD5 of `originKey`. */
    key: p.string().length(32),
    sourceId: p.uuid().nullable(),
    site: p.text(),
    medium: p.text(),
    campaign: p.text(),
    adSet: p.text(),
    ad: p.text(),
    form: p.text(),
    page: p.text(),
  },
});

/** A lead whose results have to be reckoned anew. Written by triggers (db/results.sql.ts), taken by engine/results/reckoner.ts. */
export const ResultDue = defineEntity({
  name: 'ResultDue',
  tableName: 'result_due',
  properties: {
    id: p.bigint().primary().autoincrement(),
    leadId: p.uuid(),
    dueAt: p.datetime().defaultRaw('now()'),
  },
});

/** How far one lead has come. */
export const LeadResult = defineEntity({
  name: 'LeadResult',
  tableName: 'lead_result',
  uniques: [{ name: 'lead_result_lead', properties: ['leadId'] }],
  indexes: [{ name: 'lead_result_day', properties: ['business', 'day'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    /** Null once they have been erased. */
    leadId: p.uuid().nullable(),
    sourceId: p.uuid().nullable(),
    /** Of their first touch. */
    originId: p.integer(),
    cameAt: p.datetime(),
    /** The day of that by the business's clock. */
    day: p.date(),
    /** They came in by themselves and wait for an answer: not by an old file. */
    rang: p.boolean(),
    answeredAt: p.datetime().nullable(),
    repliedAt: p.datetime().nullable(),
    bookedAt: p.datetime().nullable(),
    keptAt: p.datetime().nullable(),
    soldAt: p.datetime().nullable(),
  },
});

/** What one contact of a lead is credited with of one outcome: core/results/credits.ts. */
export const ResultCredit = defineEntity({
  name: 'ResultCredit',
  tableName: 'result_credit',
  indexes: [
    { name: 'result_credit_came', properties: ['business', 'cameDay', 'kind'] },
    { name: 'result_credit_day', properties: ['business', 'day', 'kind'] },
  ],
  properties: {
    /** Of its lead_result. */
    resultId: p.uuid().primary(),
    kind: p.string().length(60).primary(),
    key: p.text().primary(),
    originId: p.integer().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    at: p.datetime(),
    day: p.date(),
    cameDay: p.date(),
    /** The first of its kind for this lead. */
    first: p.boolean(),
    /** ISO 4217, hundredths; empty where there is no money. */
    currency: p.string().length(3),
    byFirst: p.integer(),
    byLast: p.integer(),
    byEven: p.integer(),
    byEnds: p.integer(),
    byFading: p.integer(),
    moneyFirst: p.bigint(),
    moneyLast: p.bigint(),
    moneyEven: p.bigint(),
    moneyEnds: p.bigint(),
    moneyFading: p.bigint(),
  },
});

/** Credits of a day added up: by the day the leads came (`came`) or by the day it happened (`happened`). */
export const ResultDay = defineEntity({
  name: 'ResultDay',
  tableName: 'result_day',
  properties: {
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false).primary(),
    basis: p.enum(['came', 'happened']).primary(),
    day: p.date().primary(),
    originId: p.integer().primary(),
    kind: p.string().length(60).primary(),
    currency: p.string().length(3).primary(),
    /** Leads with this as their first touch that have come so far, by their first of the kind. */
    people: p.bigint(),
    byFirst: p.bigint(),
    byLast: p.bigint(),
    byEven: p.bigint(),
    byEnds: p.bigint(),
    byFading: p.bigint(),
    moneyFirst: p.bigint(),
    moneyLast: p.bigint(),
    moneyEven: p.bigint(),
    moneyEnds: p.bigint(),
    moneyFading: p.bigint(),
  },
});

/** A kind of outcome of the business's own: "trial lesson had". */
export const OutcomeKindOwn = defineEntity({
  name: 'OutcomeKindOwn',
  tableName: 'outcome_kind',
  uniques: [{ name: 'outcome_kind_name', properties: ['business', 'name'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    name: p.string(),
    createdAt: p.datetime(),
    removedAt: p.datetime().nullable(),
  },
});

/** One of those that has happened with a lead: noted by a step or by hand. */
export const NotedOutcome = defineEntity({
  name: 'NotedOutcome',
  tableName: 'noted_outcome',
  uniques: [{ name: 'noted_outcome_key', properties: ['kind', 'key'] }],
  indexes: [{ name: 'noted_outcome_lead', properties: ['lead'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    kind: () => p.manyToOne(OutcomeKindOwn).ref(),
    lead: () => p.manyToOne(Lead).ref().deleteRule('cascade'),
    /** What makes it one and the same: noted again under this key, it is corrected and not counted twice. */
    key: p.text(),
    at: p.datetime(),
    amount: p.decimal().precision(14).scale(2).nullable(),
    currency: p.string().length(3),
    runId: p.uuid().nullable(),
    person: () => p.manyToOne(Person).ref().nullable().deleteRule('set null'),
    notedAt: p.datetime(),
  },
});

/** What advertising cost on a day, as it was told. */
export const AdCost = defineEntity({
  name: 'AdCost',
  tableName: 'ad_cost',
  uniques: [{ name: 'ad_cost_one', properties: ['business', 'day', 'campaign', 'site', 'adSet', 'ad', 'currency'] }],
  indexes: [{ name: 'ad_cost_day', properties: ['business', 'day'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    day: p.date(),
    site: p.string().length(200),
    campaign: p.string().length(200),
    adSet: p.string().length(200),
    ad: p.string().length(200),
    cost: p.decimal().precision(14).scale(2),
    currency: p.string().length(3),
    impressions: p.integer().nullable(),
    clicks: p.integer().nullable(),
    /** The name of a file, "pasted", or that of the feed that told it. */
    via: p.string().length(100),
    readAt: p.datetime(),
  },
});

/** From this day on one of that currency is worth so much of the business's own. */
export const CurrencyRate = defineEntity({
  name: 'CurrencyRate',
  tableName: 'currency_rate',
  properties: {
    business: () => p.manyToOne(Business).ref().deleteRule('cascade').primary(),
    currency: p.string().length(3).primary(),
    day: p.date().primary(),
    rate: p.decimal().precision(18).scale(8),
  },
});

/** Results show a mark under another name: two spellings of one. What came stays as it came. */
export const MarkName = defineEntity({
  name: 'MarkName',
  tableName: 'mark_name',
  properties: {
    business: () => p.manyToOne(Business).ref().deleteRule('cascade').primary(),
    mark: p.string().length(20).primary(),
    name: p.string().length(200).primary(),
    shownAs: p.string().length(200),
  },
});

/** Where what advertising cost comes from by itself: asked of an ad platform twice a day, or pushed to an address of ours. */
export const CostFeed = defineEntity({
  name: 'CostFeed',
  tableName: 'cost_feed',
  indexes: [
    {
      name: 'cost_feed_due',
      expression: `create index "cost_feed_due" on "cost_feed" ("next_at") where "next_at" is not null`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    name: p.string().length(100),
    /** The ad platform that is asked; null where it is pushed. */
    connectionId: p.uuid().nullable(),
    /** Names the address it is pushed to. */
    key: p.string().unique(),
    /** When it is asked next; null where it is pushed. */
    nextAt: p.datetime().nullable(),
    leaseUntil: p.datetime().nullable(),
    failures: p.integer().default(0),
    /** When it last told something, and how many lines. */
    lastAt: p.datetime().nullable(),
    lastLines: p.integer().default(0),
    /** Why it does not, in words; empty when it does. */
    trouble: p.text().default(''),
    createdAt: p.datetime(),
  },
});

/** The page of the month, sent by email. */
export const MonthPage = defineEntity({
  name: 'MonthPage',
  tableName: 'month_page',
  properties: {
    business: () => p.manyToOne(Business).ref().deleteRule('cascade').primary(),
    /** Day of the month on which that of the month before is sent, 1 to 28. */
    day: p.integer(),
    recipients: p.json<string[]>(),
    /** Who is still to get the one that is on its way. */
    still: p.json<string[]>(),
    nextAt: p.datetime(),
    lastAt: p.datetime().nullable(),
    trouble: p.text().default(''),
    person: () => p.manyToOne(Person).ref().nullable().deleteRule('set null'),
  },
});

/** A web site of the business that has our snippet on its pages. */
export const Site = defineEntity({
  name: 'Site',
  tableName: 'site',
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    name: p.string().length(100),
    /** Names the address of its snippet. */
    key: p.string().unique(),
    /** Whether the page has to say first that its visitor agrees. */
    asks: p.boolean(),
    createdAt: p.datetime(),
    seenAt: p.datetime().nullable(),
  },
});

/** Somebody was on a page of theirs, by a way that says where from; whose it is shows only once they fill in a form. */
export const SiteVisit = defineEntity({
  name: 'SiteVisit',
  tableName: 'site_visit',
  indexes: [
    { name: 'site_visit_visitor', properties: ['business', 'visitor'] },
    { name: 'site_visit_at', properties: ['at'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().deleteRule('cascade'),
    site: () => p.manyToOne(Site).ref().deleteRule('cascade'),
    /** A random name in the browser's own store: 22 characters of base64url. */
    visitor: p.string().length(40),
    at: p.datetime(),
    whereFrom: p.json<WhereFrom>(),
    /** "agreed", or "not asked" where the site does not ask. */
    consent: p.string().length(20),
  },
});
