/** One row of a table as text, with its number in the file; the first row is 1. Rows without anything in them are left out. */
export interface TableRow {
  n: number;
  cells: string[];
  /** What a person should look at in it: "D7 holds the error #N/A". */
  trouble?: string;
}

/** A tab of a workbook. Its id stays when it is renamed or moved. */
export interface TableTab {
  id: string;
  name: string;
  /** Out of sight for whoever opens the workbook. */
  hidden: boolean;
}

/** What may be in a file that is read row by row. */
export interface TableLimits {
  rows: number;
  cells: number;
}

/** A file that is not read, with the reason and what to do about it. */
export class TableProblem extends Error {
  readonly isTableProblem = true;

  /** The built pages and the server file are two bundles in one process, each with a class of its own: one is as good as the other. */
  static override [Symbol.hasInstance](error: unknown): boolean {
    return error instanceof Error && 'isTableProblem' in error;
  }

  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

export type TableFormat = 'csv' | 'xlsx';

/** Largest file taken, in bytes: 40 MiB. */
export const MOST_FILE_BYTES = 40 * 1024 * 1024;
/** 200,000 rows, or five million cells, whichever comes first. */
export const LIMITS: TableLimits = { rows: 200_000, cells: 5_000_000 };
/** Longest cell kept, in UTF-16 code units; a spreadsheet itself has room for 32,767. */
export const MOST_CELL = 32_767;

/** Counts what is read and stops where it becomes too much. */
export class Counter {
  private rows = 0;
  private cells = 0;
  constructor(private readonly limits: TableLimits) {}
  count(cells: number): void {
    this.rows += 1;
    this.cells += cells;
    if (this.rows > this.limits.rows)
      throw new TableProblem(
        'too-many-rows',
        `It has more than ${this.limits.rows.toLocaleString('en')} rows. Split it into smaller files.`,
      );
    if (this.cells > this.limits.cells)
      throw new TableProblem(
        'too-many-cells',
        `It has more than ${this.limits.cells.toLocaleString('en')} cells. Leave out columns that are not needed, or split it.`,
      );
  }
}
