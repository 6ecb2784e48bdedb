import { defineEntity, p } from '@mikro-orm/core';
import { Business, Person } from './business.ts';
import { Connection } from './connection.ts';

/** A calendar a colleague keeps elsewhere: their time is read from it, and what is held for them is written into it, where that is asked for. */
export const OwnCalendar = defineEntity({
  name: 'OwnCalendar',
  tableName: 'own_calendar',
  uniques: [{ name: 'own_calendar_place', properties: ['connection', 'href', 'colleague'] }],
  indexes: [
    { name: 'own_calendar_colleague', properties: ['business', 'colleague'] },
    { name: 'own_calendar_due', properties: ['nextAt'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    connection: () => p.manyToOne(Connection).ref().deleteRule('cascade'),
    colleague: () => p.manyToOne(Person).ref(),
    /** Its address; empty where the account is one calendar's address. */
    href: p.string().length(1000),
    name: p.string().length(200),
    /** What is held here is put into it. */
    writes: p.boolean().default(false),
    /** Colleagues see what is in it, not only that it takes time. */
    titles: p.boolean().default(false),
    /** The day it was read whole last (UTC), and the server's own mark of it then: "2026-12-02 abc". */
    tag: p.text().nullable(),
    nextAt: p.datetime(),
    leaseUntil: p.datetime().nullable(),
    failures: p.integer().default(0),
    lastOkAt: p.datetime().nullable(),
    troubleSince: p.datetime().nullable(),
    problem: p.text().default(''),
    createdAt: p.datetime(),
  },
});

/** An appointment as it was last put into a calendar elsewhere. */
export const CalendarCopy = defineEntity({
  name: 'CalendarCopy',
  tableName: 'calendar_copy',
  properties: {
    ownCalendar: () => p.manyToOne(OwnCalendar).ref().primary().deleteRule('cascade'),
    /** It may be gone meanwhile. */
    entryId: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    href: p.string().length(1000),
    etag: p.text().nullable(),
    title: p.text(),
    startsAt: p.datetime(),
    endsAt: p.datetime(),
    at: p.datetime(),
  },
});
