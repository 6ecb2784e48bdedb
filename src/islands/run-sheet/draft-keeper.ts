import { type History, noHistory, noted, redone, undone } from '../../client/history.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';

const PAUSE_MS = 400;
const AGAIN_MS = 3000;
/** A change of more letters than this is no typing. */
const MUCH = 8;
const TYPED = { pauseMs: 1000, wholeMs: 5000, most: 100 };

export type SaveState = 'saved' | 'saving' | 'unsaved' | 'elsewhere' | 'failed';

export interface DraftState {
  draft: Definition;
  /** Of what stands stored. */
  revision: number;
  saveState: SaveState;
  /** Why it could not be stored, in words; "" when it could. */
  problem: string;
  canUndo: boolean;
  canRedo: boolean;
}

export interface DraftPorts {
  store(revision: number, draft: Definition): Promise<{ revision: number; findings: Finding[] }>;
  /** Somebody else has changed it meanwhile: storing it again is of no use. */
  isElsewhere(error: unknown): boolean;
  changed(state: DraftState): void;
  found(findings: Finding[]): void;
  now(): number;
  /** Milliseconds; gives what calls it off. */
  later(ms: number, what: () => void): () => void;
}

/** The draft of a run sheet: stored a moment after it is changed, one save at a time, tried again until it is stored; with undo and redo. */
export class DraftKeeper {
  private history: History<Definition> = noHistory();
  private dirty = false;
  private saving: Promise<void> | null = null;
  private callOff: (() => void) | null = null;

  constructor(
    private draft: Definition,
    private revision: number,
    private readonly ports: DraftPorts,
    private saveState: SaveState = 'saved',
    private problem = '',
  ) {}

  state(): DraftState {
    const { draft, revision, saveState, problem, history } = this;
    return {
      draft,
      revision,
      saveState,
      problem,
      canUndo: history.past.length > 0,
      canRedo: history.future.length > 0,
    };
  }

  /** Something of it is not stored. */
  get unsaved(): boolean {
    return this.dirty;
  }

  /** Changes it. Edits of the same `kind` in quick succession are undone together; a pause, or much put in or taken out at once, begins anew. */
  edit(change: (before: Definition) => Definition, kind = ''): void {
    const before = this.draft;
    const next = change(before);
    if (next === before) return;
    const anew = Math.abs(JSON.stringify(before).length - JSON.stringify(next).length) > MUCH;
    this.history = noted(this.history, before, { kind, at: this.ports.now(), anew }, TYPED);
    this.put(next);
  }

  undo(): void {
    this.go(undone(this.history, this.draft));
  }

  redo(): void {
    this.go(redone(this.history, this.draft));
  }

  private go(to: { history: History<Definition>; value: Definition } | null): void {
    if (!to) return;
    this.history = to.history;
    this.put(to.value);
  }

  private put(next: Definition): void {
    this.draft = next;
    this.dirty = true;
    if (this.saveState !== 'elsewhere') this.saveState = 'unsaved';
    this.saveIn(PAUSE_MS);
    this.told();
  }

  private saveIn(ms: number): void {
    this.callOff?.();
    this.callOff = this.ports.later(ms, () => void this.save());
  }

  private told(): void {
    this.ports.changed(this.state());
  }

  /** Stores what is not stored yet; what is typed meanwhile goes with the next save. */
  async save(): Promise<void> {
    this.callOff?.();
    this.callOff = null;
    while (this.saving) await this.saving;
    if (!this.dirty) return;
    this.saving = this.once();
    await this.saving;
    this.saving = null;
  }

  private async once(): Promise<void> {
    this.dirty = false;
    this.saveState = 'saving';
    this.told();
    try {
      const saved = await this.ports.store(this.revision, this.draft);
      this.revision = saved.revision;
      this.problem = '';
      if (!this.dirty) this.saveState = 'saved';
      this.ports.found(saved.findings);
    } catch (error) {
      this.dirty = true;
      const elsewhere = this.ports.isElsewhere(error);
      this.saveState = elsewhere ? 'elsewhere' : 'failed';
      this.problem = error instanceof Error ? error.message : String(error);
      if (!elsewhere) this.saveIn(AGAIN_MS);
    }
    this.told();
  }

  /** When everything is stored; fails with why when it cannot be. */
  async flush(): Promise<void> {
    await this.save();
    if (this.dirty) throw new Error(this.problem);
  }
}
