/** A file that was handed in, as its source's page shows it. `receivedAt` is ISO 8601; `rows` are all of it, `fresh` those not seen before. */
export interface FileView {
  id: string;
  name: string;
  size: number;
  receivedAt: string;
  state: 'new' | 'read' | 'refused';
  problem: string | null;
  rows: number;
  fresh: number;
}
