import type { RowEdits } from './row-edits.ts';

const AGAIN_MS = 3000;

export type SavingState = 'saved' | 'saving' | 'failed';

export interface QueuePorts {
  store(edits: RowEdits): Promise<unknown>;
  changed(state: SavingState): void;
  /** One has been stored. */
  stored(): void;
  /** Why one could not be, in words; `forGood` when it will never be, and those behind it go on without it. */
  failed(words: string, forGood: boolean): void;
  /** Tried again it would be refused again. */
  isForGood(error: unknown): boolean;
  /** Milliseconds; gives what calls it off. */
  later(ms: number, what: () => void): () => void;
}

/**
 * The edits of a sheet, stored one after the other in the order they were made. What cannot be stored now stays first and is tried again: nothing
 * overtakes it. What is refused for good is told, and holds up nothing.
 */
export class EditQueue {
  private readonly waiting: RowEdits[] = [];
  private sending = false;
  private callOff: (() => void) | null = null;

  constructor(private readonly ports: QueuePorts) {}

  get unsaved(): boolean {
    return this.waiting.length > 0;
  }

  add(...edits: RowEdits[]): void {
    this.waiting.push(...edits);
    void this.send();
  }

  private async send(): Promise<void> {
    if (this.sending) return;
    this.callOff?.();
    this.callOff = null;
    this.sending = true;
    this.ports.changed('saving');
    try {
      for (let next = this.waiting[0]; next; next = this.waiting[0]) {
        try {
          await this.ports.store(next);
          this.ports.stored();
        } catch (error) {
          if (!this.ports.isForGood(error)) throw error;
          this.ports.failed(wordsOf(error), true);
        }
        this.waiting.shift();
      }
      this.ports.changed('saved');
    } catch (error) {
      this.ports.changed('failed');
      this.ports.failed(wordsOf(error), false);
      this.callOff = this.ports.later(AGAIN_MS, () => void this.send());
    } finally {
      this.sending = false;
    }
  }
}

const wordsOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
