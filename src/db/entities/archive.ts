import { defineEntity, p } from '@mikro-orm/core';
import { Business } from './business.ts';
import { Source } from './source.ts';

/** Arrivals of one business and one month as they were sent, packed together: engine/archive/pack.ts. A part of the table for each month. */
export const ArrivalPack = defineEntity({
  name: 'ArrivalPack',
  tableName: 'arrival_pack',
  indexes: [{ name: 'arrival_pack_business', properties: ['businessId', 'month'] }],
  properties: {
    id: p.uuid().primary(),
    /** Its first day, in UTC. */
    month: p.date().primary(),
    businessId: p.uuid(),
    arrivals: p.integer(),
    /** Before they were packed. */
    rawBytes: p.bigint(),
    bytes: p.blob(),
  },
});

/** How far the archive of a business has come: what came in before these times is packed, or kept no more. */
export const ArchiveProgress = defineEntity({
  name: 'ArchiveProgress',
  tableName: 'archive_progress',
  properties: {
    business: () => p.oneToOne(Business).ref().primary().owner().deleteRule('cascade'),
    packedTo: p.datetime(),
    droppedTo: p.datetime(),
  },
});

/** Arrivals of a source on a day that is over, in UTC; what is not counted yet has no row: day-counts.sql.ts. */
export const ArrivalDay = defineEntity({
  name: 'ArrivalDay',
  tableName: 'arrival_day',
  properties: {
    source: () => p.manyToOne(Source).ref().primary().deleteRule('cascade'),
    day: p.date().primary(),
    n: p.integer(),
  },
});

/** The same of the people of a business, by the day they came. */
export const LeadDay = defineEntity({
  name: 'LeadDay',
  tableName: 'lead_day',
  properties: {
    business: () => p.manyToOne(Business).ref().primary().deleteRule('cascade'),
    day: p.date().primary(),
    n: p.integer(),
  },
});
