/** An import as its panel is told of it. */
export interface ImportView {
  state: 'reading' | 'read' | 'ready' | 'running' | 'stopped' | 'done' | 'undone' | 'refused';
  fileName: string;
  problem: string | null;
  rows: number;
  columns: { id: string; name: string; index: number }[];
  headerRow: number | null;
  /** The tab that is read; null for CSV. */
  tab: string | null;
  counts: { good: number; refused: number; duplicate: number; known: number } | null;
  /** Whether the counts are by the lead card as it is now. */
  checked: boolean;
  workflowName: string | null;
  perMinute: number;
  done: number;
  total: number;
  startedAt: string | null;
  finishedAt: string | null;
  /** Live workflows that could be run for each. */
  workflows: { id: string; name: string }[];
  /** Lists they can be put on, and the one that was chosen. */
  lists: { id: string; name: string; asks: boolean }[];
  listName: string | null;
  /** Messages that have gone out to people of this import. */
  messages: number;
}

/** A row of the file. */
export interface ImportRow {
  n: number;
  cells: string[];
  verdict: 'unknown' | 'good' | 'known' | 'duplicate' | 'refused';
  problem: string | null;
}

/** A number as it is read. */
export const count = (n: number) => n.toLocaleString('en');

/** Whether something is under way that moves by itself, so that it is worth looking often. */
export const isBusy = (view: ImportView, sourceIsLive: boolean): boolean =>
  view.state === 'reading' ||
  view.state === 'running' ||
  (sourceIsLive && !view.checked && view.state !== 'undone' && view.state !== 'refused');

/** How many people would be brought in: of one that was stopped those left, else the good rows, with those who stand in it twice if wished. */
export function peopleToBring({ state, total, done, counts }: ImportView, withDuplicates: boolean): number {
  if (state === 'stopped') return total - done;
  return (counts?.good ?? 0) + (withDuplicates ? (counts?.duplicate ?? 0) : 0);
}

/** How long it still takes, in milliseconds: at the pace it was given, or the one it has had so far. Zero when that cannot be said. */
export function remainingMs({ startedAt, done, total, perMinute, workflowName }: ImportView, now: number): number {
  const left = Math.max(0, total - done);
  if (workflowName !== null) return (left / perMinute) * 60_000;
  const took = startedAt && done > 0 ? now - Date.parse(startedAt) : 0;
  return took > 0 ? (took / done) * left : 0;
}

/** What is to be done with the people in the file. */
export interface ImportWishes {
  /** Empty: they are only recorded. */
  workflowId: string;
  perMinute: number;
  withDuplicates: boolean;
  /** Empty: no list. */
  listId: string;
  /** They need not be asked to confirm. */
  proven: boolean;
}

/** As it was begun, for one that was stopped; `listId` is the list this file was begun for, if any. */
export const firstWishes = (
  { workflows, workflowName, perMinute, lists, listName }: ImportView,
  listId: string,
): ImportWishes => ({
  workflowId: workflows.find(({ name }) => name === workflowName)?.id ?? '',
  perMinute,
  withDuplicates: false,
  listId: lists.find(({ name }) => name === listName)?.id ?? listId,
  proven: false,
});

/** What pressing the button will do, in words. */
export function whatWillHappen(view: ImportView, wishes: ImportWishes): string {
  const people = count(peopleToBring(view, wishes.withDuplicates));
  const workflow = view.workflows.find(({ id }) => id === wishes.workflowId);
  const list = view.lists.find(({ id }) => id === wishes.listId);
  const first = workflow
    ? `"${workflow.name}" will run for ${people} people, and they will be written to as it says. This cannot be called back.`
    : `${people} people will be recorded as leads. ${list ? '' : 'Nobody is written to, and you can undo it.'}`;
  if (!list) return first;
  return `${first.trim()} Then they are put on ${list.name}${list.asks && !wishes.proven ? ', and asked by email to confirm' : ''}.`;
}
