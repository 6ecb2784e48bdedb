import { v7 as uuidv7 } from 'uuid';
import type { AcceptItem } from '../../db/hot/rows.ts';

/** Nobody yet. */
export const NOBODY = { first_name: '', last_name: '', email: '', phone: '' };

/** An arrival of a source at an instant (epoch milliseconds) of which nothing is known yet; its runs are anybody's. */
export const blankItem = (of: { businessId: string; sourceId: string; now: number }): AcceptItem => ({
  arrival_id: uuidv7(),
  business_id: of.businessId,
  source_id: of.sourceId,
  external_id: null,
  received_at: new Date(of.now).toISOString(),
  headers: {},
  body: '',
  fields: [],
  where_from: {},
  state: 'read',
  problem: null,
  person: NOBODY,
  identities: [],
  answers: {},
  consent: null,
  brings: 'people',
  asks_whose: false,
  again: false,
  workflows: null,
  means: null,
  came_at: null,
  new_lead_id: uuidv7(),
  touch_id: uuidv7(),
  run_id: uuidv7(),
  lease_by: null,
  lease_seconds: 0,
  needs_you: null,
});
