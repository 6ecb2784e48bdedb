/** The newest arrival of a lead and its source (`a`, `s`), for a subquery. Joining one of our own lists is no coming in. */
export const cameInBy = (columns: string): string =>
  `select ${columns} from arrival a join source s on s.id = a.source_id where a.lead_id = l.id and s.kind <> 'list' order by a.received_at desc limit 1`;
